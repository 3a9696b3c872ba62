"""What stands on a region: bands of filament from bottom to top."""

from __future__ import annotations

from dataclasses import dataclass

from shapely.geometry.base import BaseGeometry


@dataclass(frozen=True, order=True)
class Band:
    """Filament number `filament` from `bottom` to `top`, mm."""

    bottom: float
    top: float
    filament: int


Column = tuple[Band, ...]
"""Bands from bottom to top, none overlapping; empty where there is nothing."""


@dataclass(frozen=True)
class Filament:
    """One material: #rrggbb and what its body is called."""

    colour: str
    name: str


@dataclass(frozen=True, eq=False)
class Design:
    """A form worked out, ready to be raised.

    layers: valid polygonal geometries, mm, y up; the last one on top decides what stands on a face.
    columns: one a layer. filaments: what the bands' numbers mean.
    remarks: what the maker should know.
    """

    layers: tuple[BaseGeometry, ...]
    columns: tuple[Column, ...]
    filaments: tuple[Filament, ...]
    remarks: tuple[str, ...] = ()
