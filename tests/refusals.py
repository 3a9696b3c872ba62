"""What a maker is told where something is refused."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from drelo.core.errors import Refusal
from drelo.words.spoken import sentence


@contextmanager
def refused(words: str) -> Iterator[pytest.ExceptionInfo[Refusal]]:
    """What is inside is refused, in words that are found."""
    with pytest.raises(Refusal) as told:
        yield told
    said = sentence(told.value)
    assert re.search(words, said), said
