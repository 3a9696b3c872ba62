"""All that whoever runs Drelo may set, in one place: from the environment, each name with DRELO_ before it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError, field_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from drelo.core.errors import Refusal

ROOT = Path(__file__).resolve().parents[2]
PREFIX = "DRELO_"


class Settings(BaseSettings):
    """docs/settings.md tells them one by one."""

    model_config = SettingsConfigDict(env_prefix=PREFIX, env_ignore_empty=True, frozen=True)

    data: Annotated[Path, Field(description="Folder of pieces, pictures, backups and logs.")] = ROOT / "data"
    port: Annotated[int, Field(ge=1, le=65535, description="Port on 127.0.0.1.")] = 8137
    workers: Annotated[int, Field(ge=1, le=64, description="Worker processes that are always there.")] = 2
    spare_workers: Annotated[int, Field(ge=0, le=64, description="More that are started while short jobs wait.")] = 2
    derived_mb: Annotated[
        int, Field(ge=16, le=1_000_000, description="What can be made again is kept up to so many MB.")
    ] = 512
    log_level: Annotated[
        Literal["debug", "info", "warning", "error"], Field(description="What is written to the log, from this on.")
    ] = "info"
    log_mb: Annotated[int, Field(ge=1, le=1000, description="A log longer than so many MB is put aside.")] = 4
    log_files: Annotated[int, Field(ge=0, le=100, description="So many logs that were put aside are kept.")] = 5

    @field_validator("data")
    @classmethod
    def _whole(cls, folder: Path) -> Path:
        return folder.expanduser().resolve()


def settings() -> Settings:
    """The settings of the environment. Raises Refusal naming the one that cannot be."""
    try:
        return Settings()
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        name = f"{PREFIX}{str(first['loc'][0]).upper()}"
        raise Refusal(f"{name} cannot be {first['input']!r}: {first['msg'][:1].lower()}{first['msg'][1:]}.") from None
