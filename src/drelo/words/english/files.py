"""Files that come in and go out."""

from __future__ import annotations

SENTENCES = {
    "file.too-large": "{what} {path} is larger than {megabytes} MB, too large to be read.",
    "file.unreadable": "{what} {path} cannot be read: {reason}.",
    "file.unwritable": "{path} cannot be written: {reason}.",
    "upload.not-a-file": "Choose a file here, not text.",
    "intake.too-large": "{name} is larger than {megabytes} MB.",
    "zip.too-large": "The ZIP holds more than {files} files or {megabytes} MB. Pack fewer.",
    "zip.unreadable": "The ZIP cannot be read: {reason}. Zip the files again.",
    "zip.damaged": "The ZIP is damaged. Zip the files again.",
    "drawing.no-outline": "No outline in this drawing encloses anything.",
    "drawing.too-many-outlines": "The drawing has {count} outlines; at most {most} can be read. Simplify it.",
    "drawing.empty-file": "The file is empty. Save it again and choose it once more.",
    "dxf.nothing-closed": "No line of the DXF is closed, so there is nothing to build. Close its outlines.",
    "dxf.unsound": "The DXF would not be sound: {problem}. Change the outline there.",
    "dxf.too-large": "The DXF is larger than {megabytes} MB. Simplify it.",
    "dxf.unit": "The unit must be one of {units:list}.",
    "dxf.unreadable": "This is not a DXF drawing that can be read. Save it again as DXF R2010.",
    "dxf.unplaceable-block": (
        "The DXF has a block that cannot be placed. Explode its blocks, or save it again as DXF R2010."
    ),
    "dxf.empty": "There is no line, arc, circle, ellipse, polyline or spline in the DXF.",
    "dxf.blocks-in-a-ring": "The DXF's blocks contain each other in a loop, or go more than {most} deep. Explode them.",
    "dxf.blocks-too-many": "The DXF's blocks come to more than {most} entities once inserted. Simplify it.",
    "dxf.too-many-entities": "The DXF has more than {most} entities. Simplify it.",
    "dxf.too-many-segments": "The DXF has more than {most} segments. Simplify it.",
    "dxf.no-numbers": "The DXF has coordinates that are not numbers.",
    "svg.first-tag": "This is not an SVG drawing: its first tag is not a standard <svg>.",
    "svg.nested-too-deep": "The SVG nests its groups more than {most} deep. Ungroup it.",
    "svg.style-too-long": (
        "The SVG's style sheet has more than {most} letters. Save it as plain SVG, with its colours on the shapes."
    ),
    "svg.entities": "The SVG declares entities, which Drelo does not read. Save it as plain SVG.",
    "svg.too-large": "The SVG is larger than {megabytes} MB. Simplify it.",
    "svg.not-one": "This is not an SVG drawing.",
    "svg.unreadable": "The SVG cannot be read: {reason}. Save it again from your drawing program.",
    "svg.endless": "The SVG uses a part inside itself, in an endless loop. Save it as plain SVG.",
    "svg.too-many-segments": "The SVG has more than {most} segments. Simplify it.",
    "svg.empty": "There is no visible filled or stroked shape in the SVG.",
    "svg.no-numbers": "The SVG has coordinates that are not numbers, or are far too large.",
    "svg.stroke-too-wide": "The SVG has a stroke that is far too wide. Give it a width that fits the drawing.",
    "svg.undrawable": "The SVG has a shape whose numbers cannot be drawn. Save it again from your drawing program.",
    "svg.too-many-elements": "The SVG draws more than {most} elements. Simplify it.",
    "svg.too-many-attributes": "A shape of the SVG has more than {most} attributes. Save it again from your program.",
    "stl.too-large": "The STL is larger than {megabytes} MB, too large to be read.",
    "stl.wrong-length": (
        "The STL says it has {count} triangles, which take {needed} bytes, but it is {has} bytes long: it is "
        "damaged or cut off. Export it again."
    ),
    "stl.too-short": "This is not an STL file: it is too short to hold a triangle.",
    "stl.no-number": "The STL's text has a coordinate that is not a number. Export it again.",
    "stl.cut-off": "The STL's text is cut off in the middle of a triangle. Export it again.",
    "threemf.unreadable": "The 3MF cannot be read: {reason}. Export it again.",
    "threemf.empty": "The 3MF builds nothing: there is no object in it.",
    "threemf.unpacks-too-large": "The 3MF unpacks to more than {megabytes} MB, too large to be read.",
    "threemf.not-one": "This is not a 3MF file, or it is cut off. Export it again.",
    "threemf.nested-too-deep": "The 3MF nests its objects too deeply to be read.",
    "threemf.damaged": "The 3MF cannot be read: a mesh in it is damaged. Export it again.",
    "png.too-many-pixels": (
        "At {dpi:g} dpi the picture has {across} × {down} pixels; at most {most} million can be written. Choose a "
        "lower resolution."
    ),
    "recipe.too-large": "The recipe is larger than {megabytes} MB.",
    "recipe.not-json": "The recipe is not valid JSON: {reason}.",
    "recipe.no-object": "The recipe must be a JSON object.",
    "recipe.invalid": "{where}: {problem}.",
    "recipe.missing": "There is no recipe among these files: a .json file, or a .zip that holds one.",
    "recipe.several": "There are {count} recipes among these files. Choose one with its art.",
    "recipe.does-not-fit": "The recipe does not fit a piece: {field}: {problem}.",
    "recipe.too-wide": "A piece is at most {most:g} mm wide or high.",
    "recipe.file-missing": "The recipe names the file {name}. Choose it together with the recipe.",
    "recipe.too-many-colours": (
        "The recipe builds with {count} colours; a piece has at most {most} filaments. Give several fills the "
        "same colour."
    ),
    "export.no-outline": "There is no outline to export yet.",
    "export.middles-kind": "Middle lines go into SVG or DXF. Choose one of them, or export outlines.",
    "export.no-middles": "Nothing was traced as strokes, so there are no middle lines. Export outlines.",
    "archive.too-many-pictures": (
        "The pictures of this piece and its versions come to more than {megabytes} MB. Take names off versions "
        "that are no longer needed."
    ),
    "archive.no-piece-file": "This ZIP is not a Drelo piece: there is no piece.json in it.",
    "archive.file-missing": "The archive is damaged: {path} is missing. Export the piece again.",
    "archive.file-changed": "The archive is damaged: {path} has changed. Export the piece again.",
    "archive.asset-missing": "A picture or font of the piece is not in the archive. Export the piece again.",
    "archive.too-large-a-piece": "This piece unpacks to more than {megabytes} MB, too large to be opened.",
    "archive.piece-unreadable": "The archive is damaged: piece.json cannot be read. Export the piece again.",
    "archive.no-piece": "This ZIP is not a Drelo piece.",
    "archive.newer": "This archive was made by a newer Drelo (version {version}). Open it with that one.",
    "archive.invalid": "The archive is damaged: {where}: {problem}.",
    "archive.wrong-size": "The archive is damaged: {name} is not the size it claims to be.",
    "guard.too-slow": (
        "Reading the {what} took longer than {seconds:g} s and was stopped. Simplify it, or save it again from "
        "the program that made it."
    ),
    "guard.too-much-memory": (
        "Reading the {what} would take more than {megabytes} MB of memory. Make it smaller, or simplify it."
    ),
    "guard.damaged": (
        "The {what} is damaged, or written in a way Drelo cannot read. Save it again from the program that made it."
    ),
}
