"""From a picture to fitted outlines: three modes behind one door.

| to change | look in |
|---|---|
| what may be set, and its limits | `settings`, `ranges`, `area` |
| which mode does it, and at what resolution | `modes`; what comes out: `trace`, `nesting`, `struck` |
| what is read off the picture | `seen`: `level_lines`, `samples`, `coverage` |
| what a corner is, and how one is found | `corners`: `corners` (all lines), `ends` (square ends), `tips` (open lines) |
| how few curves there are, how near the edge | `fit`: `segments` first, `refine` and `rings` move all, `merge` joins, |
| | `scene` is what they are held against, `trust` how far the picture is believed |
| pictures without antialiasing | `hard`: `stairs` (corners), `straight` (edges), `flats` and `agree` (every pixel) |
| the order of all this, and corners that a blur hid | `contours`: `fit`, `hidden_corners` |
| what a mode adds | `ink`; `colours`; `strokes`; `pen` for what is drawn by hand |
| what a trace must hold before it leaves | `check` |

Each may import those above it (held by the linter).
"""
