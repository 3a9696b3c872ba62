"""Whose request is being answered: what is made meanwhile is theirs."""

from __future__ import annotations

from contextvars import ContextVar

author: ContextVar[str | None] = ContextVar("author", default=None)
"""The account; none where there are no people."""
