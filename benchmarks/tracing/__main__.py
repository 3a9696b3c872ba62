"""Scores traces against known outlines: python -m benchmarks.tracing [CONDITION …] [--sides 300,1000]"""

from __future__ import annotations

import argparse

import numpy as np

from benchmarks.tracing.measure import Score, score
from benchmarks.tracing.render import CONDITIONS, coverage
from benchmarks.tracing.truth import truths
from drelo.core.picture.decode import decode
from drelo.core.trace.ink import InkSettings, trace_ink

SIDES = (150, 300, 600, 1000, 2500)


def line(name: str, scores: list[Score]) -> str:
    means = [s.mean for s in scores]
    corners = sum(s.corners for s in scores)
    return (
        f"{name:28} mean {np.mean(means):.3f} (worst {max(means):.3f})  99% {np.mean([s.most for s in scores]):.3f} "
        f"(worst {max(s.most for s in scores):.3f})  nodes {np.mean([s.nodes for s in scores]):.2f} × "
        f"(worst {max(s.nodes for s in scores):.2f})  corners {sum(s.found for s in scores) / max(corners, 1):.1%} "
        f"false {np.mean([s.false for s in scores]):.1f} (most {max(s.false for s in scores)})  "
        f"topology {sum(s.topology for s in scores)}/{len(scores)}"
    )


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("conditions", nargs="*", default=list(CONDITIONS))
    parser.add_argument("--sides", default=",".join(map(str, SIDES)))
    parser.add_argument("--each", action="store_true", help="a line for every picture")
    args = parser.parse_args()
    sides = [int(s) for s in args.sides.split(",")]
    table: dict[tuple[str, int], list[Score]] = {}
    for side in sides:
        for truth in truths():
            outlines, width, height = truth.fitted(side)
            cover = coverage(outlines, width, height)
            for condition in args.conditions:
                picture = decode(CONDITIONS[condition](cover))
                result = score(trace_ink(picture, InkSettings()).outlines, outlines)
                table.setdefault((condition, side), []).append(result)
                if args.each:
                    print(line(f"{condition} {side} {truth.name}", [result]))
    for (condition, side), scores in sorted(table.items(), key=lambda item: args.conditions.index(item[0][0])):
        print(line(f"{condition} {side}", scores))


if __name__ == "__main__":
    main()
