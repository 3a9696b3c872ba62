"""The headless commands: `python -m drelo.cli COMMAND`; the launcher calls this."""

from __future__ import annotations

import argparse
import sys

from drelo.cli import build, check, trace
from drelo.core.errors import Refusal

DONE, REFUSED = 0, 1


def main(words: list[str] | None = None) -> int:
    """Run one command; 0 done, 1 the input was refused, 2 the call's words are off."""
    parser = argparse.ArgumentParser(prog="drelo", description="From a picture to a sealed solid.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, module, summary in (
        ("trace", trace, "picture to closed profiles (SVG)"),
        ("build", build, "recipe to solid (STL or 3MF)"),
        ("check", check, "is a mesh file sealed?"),
    ):
        sub = commands.add_parser(name, help=summary, description=module.__doc__)
        module.add_arguments(sub)
        sub.set_defaults(run=module.run)
    args = parser.parse_args(words)
    try:
        args.run(args)
    except Refusal as refusal:
        print(" ".join(str(refusal).split()), file=sys.stderr)
        return REFUSED
    return DONE


if __name__ == "__main__":
    sys.exit(main())
