"""The headless commands: `python -m drelo.cli COMMAND`; the launcher calls this."""

from __future__ import annotations

import argparse
import gc
import importlib
import os
import sys
from collections.abc import Callable

from drelo.core.errors import Refusal
from drelo.words.spoken import sentence

DONE, REFUSED = 0, 1
# Commands that read a file, write another and end.
BRIEF = ("trace", "build", "batch", "check", "rehearse")
# So many new objects are let come before Python looks for lost ones: loading libraries makes tens of thousands.
LOADED = 50_000


def main(words: list[str] | None = None) -> int:
    """Run one command; 0 done, 1 the input was refused, 2 the call's words are off."""
    words = sys.argv[1:] if words is None else words
    parser = argparse.ArgumentParser(prog="drelo", description="From a picture to a sealed solid.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, summary in (
        ("start", "start the web application and its database"),
        ("trace", "trace a picture to closed outlines (SVG)"),
        ("build", "build the solid of a recipe (STL or 3MF)"),
        ("batch", "build a recipe for a list of names"),
        ("check", "say whether a mesh file is sealed"),
        ("rehearse", "print a mesh file on a simulated printer"),
        ("piece", "export and import pieces"),
        ("people", "see to the people of a shared workshop"),
        ("worker", "let this machine work for another"),
        ("backup", "save everything in one file"),
        ("restore", "make a new data folder from a backup"),
        ("verify", "say whether a backup is whole"),
    ):
        # Only the command that is called is imported: the headless ones want no database and no web.
        if words[:1] != [name] and words[:1] not in ([], ["-h"], ["--help"]):
            commands.add_parser(name)
            continue
        module = importlib.import_module(f"drelo.cli.{name}")
        sub = commands.add_parser(name, help=summary, description=_described(module.__doc__ or ""))
        module.add_arguments(sub)
        sub.set_defaults(run=module.run)
    args = parser.parse_args(words)
    return refusing(lambda: args.run(args))


def refusing(work: Callable[[], None]) -> int:
    """The status of some work; where it is refused, the terminal is told in a line."""
    try:
        work()
    except Refusal as refusal:
        said = sentence(refusal)
        place = "" if not refusal.field or refusal.field in said else f"{refusal.field}: "
        print(place + " ".join(said.split()), file=sys.stderr)
        return REFUSED
    except MemoryError:
        print("There is not enough memory for this. Make the picture or drawing smaller.", file=sys.stderr)
        return REFUSED
    return DONE


def _described(text: str) -> str:
    """What a module says of its command, without the command's name before it."""
    bare = text.partition(": ")[2] or text
    return bare[:1].upper() + bare[1:]


def briefly() -> None:
    """One brief command, then out at once: tidying away all that was loaded would take a quarter of its time."""
    gc.set_threshold(LOADED)
    status = main()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)


if __name__ == "__main__":
    if sys.argv[1:2] and sys.argv[1] in BRIEF:
        briefly()
    sys.exit(main())
