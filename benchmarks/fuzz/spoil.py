"""Ways in which a valid file is spoilt. Pure: the same seed, the same file."""

from __future__ import annotations

import random
import re
from collections.abc import Callable, Sequence

Spoil = Callable[[random.Random, bytes, Sequence[bytes]], bytes]
# Numbers that arithmetic trips over.
NUMBERS = (
    b"0", b"-1", b"-0", b"1e400", b"-1e400", b"1e-400", b"nan", b"inf", b"1e20", b"2147483648", b"-2147483649",
    b"4294967296", b"9" * 400, b"0.1" + b"0" * 300, b".", b"-", b"1e", b"0x10", b"65536", b"1e308",
)  # fmt: skip
_NUMBER = re.compile(rb"-?\d+(?:\.\d+)?(?:[eE]-?\d+)?")
_PIECE = re.compile(rb"<[^<>]*>|[^<>\n]*\n|[\w#.-]+|.", re.DOTALL)
MOST = 400_000


def bits(random_: random.Random, data: bytes, _: Sequence[bytes]) -> bytes:
    """Some bits the other way round."""
    found = bytearray(data)
    for _n in range(random_.choice((1, 1, 2, 4, 16, 64))):
        at = random_.randrange(len(found))
        found[at] ^= 1 << random_.randrange(8)
    return bytes(found)


def octets(random_: random.Random, data: bytes, _: Sequence[bytes]) -> bytes:
    """Bytes, or the numbers of four bytes, that are the largest and smallest there are."""
    found = bytearray(data)
    for _n in range(random_.choice((1, 2, 4))):
        at = random_.randrange(len(found))
        value = random_.choice((b"\0", b"\xff", b"\x7f", b"\x80", b"\xff" * 4, b"\0" * 4, b"\x7f\xff\xff\xff"))
        found[at : at + len(value)] = value
    return bytes(found)


def cut(random_: random.Random, data: bytes, _: Sequence[bytes]) -> bytes:
    """A part is missing: the end, or something in between."""
    a, b = sorted((random_.randrange(len(data)), random_.randrange(len(data))))
    return data[:a] if random_.random() < 0.5 else data[:a] + data[b:]


def splice(random_: random.Random, data: bytes, others: Sequence[bytes]) -> bytes:
    """The beginning of one with the end of another."""
    other = random_.choice(others)
    return data[: random_.randrange(len(data))] + other[random_.randrange(len(other)) :]


def again(random_: random.Random, data: bytes, _: Sequence[bytes]) -> bytes:
    """A part comes again and again."""
    at = random_.randrange(len(data))
    part = data[at : at + random_.choice((1, 4, 20, 100, 500))]
    return data[:at] + part * random_.choice((2, 10, 100, 1000)) + data[at:]


def numbers(random_: random.Random, data: bytes, _: Sequence[bytes]) -> bytes:
    """Other numbers in the place of those of a text."""
    found = list(_NUMBER.finditer(data))
    for match in sorted(random_.sample(found, min(len(found), random_.choice((1, 1, 3)))), key=lambda m: -m.start()):
        data = data[: match.start()] + random_.choice(NUMBERS) + data[match.end() :]
    return data


def pieces(random_: random.Random, data: bytes, others: Sequence[bytes]) -> bytes:
    """Tags, lines and words of a text left out, doubled, moved, nested, or taken from another one."""
    found = _PIECE.findall(data)
    for _n in range(random_.choice((1, 2, 5))):
        at, other = random_.randrange(len(found)), random_.randrange(len(found))
        match random_.randrange(5):
            case 0:
                del found[at]
            case 1:
                found[at:at] = found[at : at + random_.choice((1, 3, 20))] * random_.choice((1, 5, 60))
            case 2:
                found[at], found[other] = found[other], found[at]
            case 3:
                found.insert(at, random_.choice(_PIECE.findall(random_.choice(others))))
            case _:
                found[at] = found[other]
        if len(found) < 2:
            break
    return b"".join(found)


PLAIN: tuple[Spoil, ...] = (bits, octets, cut, splice, again)
TEXT: tuple[Spoil, ...] = (numbers, numbers, pieces, pieces, pieces)


def spoilt(seed: int, samples: Sequence[bytes], is_text: bool) -> bytes:
    """The file of a seed."""
    random_ = random.Random(seed)
    data = random_.choice(samples)
    ways = (*PLAIN, *TEXT, *TEXT) if is_text else PLAIN
    for _ in range(random_.choice((1, 1, 1, 2, 3))):
        data = random_.choice(ways)(random_, data, samples)[:MOST] or b"\0"
    return data
