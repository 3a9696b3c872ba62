"""Who may have derived bytes: whoever may see what they were made of. One maker alone may have all of them."""

from __future__ import annotations

from drelo.web.bench import bench
from drelo.web.people.who import person, shared


def told(key: str, of: str) -> str:
    """The key of derived bytes of a piece or a bed plan, on its way to who asked for them."""
    if shared():
        bench().shares.tell(key, of)
    return key


def may_have(key: str) -> bool:
    """Whether who asks may have these derived bytes."""
    me = person()
    return not shared() or (me is not None and bench().shares.may_have(me, key))
