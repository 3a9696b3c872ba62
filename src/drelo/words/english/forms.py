"""Regions, forms and their solids."""

from __future__ import annotations

SENTENCES = {
    "art.two-sizes": "Give the art's width or its height, not both: its proportions are kept.",
    "art.no-extent-that-way": "The art has no size in that direction.",
    "art.folds-back": (
        "Nothing encloses an area: every outline folds back on itself. Draw one that goes round something."
    ),
    "art.no-outline": "The art is empty: there is no closed outline to raise.",
    "art.only-holes": "The art is empty: there is nothing but holes.",
    "art.no-extent": "The art has no size, so there is nothing to raise.",
    "art.too-large": "The art is {extent:.0f} mm across; at most {metres:.0f} m can be built.",
    "art.too-many-crossings": "The art crosses itself in too many places. Simplify it or drop small parts.",
    "art.too-thin": "The art is so thin that no area is left on the grid. Make it larger or thicken its lines.",
    "art.too-close": "Some outlines of the art are too close to each other to be told apart. Simplify them.",
    "art.too-many-faces": (
        "The art falls into {count} faces, and {most} is the limit. Simplify it or drop small parts."
    ),
    "region.none-left": "No region is left. Bring back one that was left out, or trace or draw another.",
    "base.margin-too-small": "With a margin of {margin:g} mm nothing is left of the base. Make the margin larger.",
    "base.out-of-range": "The base's {name:name} must be a number up to {top:g} mm.",
    "base.no-thickness": 'The base needs a thickness above 0, or choose the shape "none".',
    "base.corner-radius": "The base's corner radius must be between 0 and {most:g} mm.",
    "base.sides": "The base's sides must be between 0 and {most:g} mm.",
    "edge.size": "An edge's size must be between 0 and {most:g} mm.",
    "edge.draft": "A draft must be between 0 and {most:g} degrees.",
    "grip.out-of-range": "The grip's {name:name} must be between 1 and {most:g} mm.",
    "grip.socket-too-deep": (
        "A socket {height:g} mm deep goes through a plate of {thickness:g} mm. Make it at most {deepest:g} mm "
        "deep, or the plate thicker."
    ),
    "grip.plate-too-thin": (
        "A plate of {thickness:g} mm is too thin for a peg. Make it {least:g} mm thick or more, or choose a grip "
        "in one piece with the plate."
    ),
    "grip.peg-too-wide": "A peg of {peg_width:g} mm is wider than its grip. Make it narrower.",
    "grip.no-room": (
        "The plate has no room for a peg of {peg_width:g} mm. Make the peg narrower or the margin wider, or "
        "choose a grip in one piece with the plate."
    ),
    "cutter.no-outline": "The art is empty: there is no closed outline to cut.",
    "cutter.too-small": "The art is too small to cut: nothing in it covers {least:g} mm². Make it larger.",
    "cutter.too-many-parts": (
        "The silhouette falls into {parts} separate shapes; a cutter is made of at most {most}. Drop small parts,"
        " or pick one shape."
    ),
    "cutter.out-of-range": "The cutter's {name:name} must be between {low:g} and {high:g} mm.",
    "cutter.edge-over-wall": "The cutter's edge cannot be thicker than its wall.",
    "cutter.too-shallow": (
        "A flange of {flange_height:g} mm and a taper of {taper:g} mm need more than a depth of {depth:g} mm. "
        "Make the cutter deeper."
    ),
    "cutter.ribs-too-short": "Ribs this short do not reach the dough. Make the cutter deeper.",
    "nameplate.no-letters": "The art is empty: there are no letters to raise.",
    "nameplate.no-backing": "A nameplate needs a backing: choose outline, rectangle or circle.",
    "nameplate.out-of-range": "The nameplate's {name:name} must be between {low:g} and {high:g}.",
    "nameplate.height": 'A height must be a number up to 500 mm, or "through".',
    "nameplate.sunk-through": (
        "The letters are sunk {depth:g} mm into a backing of {thickness:g} mm and would go through it. Make them "
        'shallower, the backing thicker, or type "through".'
    ),
    "relief.out-of-range": "The relief's {name:name} must be between {low:g} and {high:g} mm.",
    "relief.height": 'A height must be a number up to {most:g} mm, or "through".',
    "relief.sunk-without-base": "A negative height needs a base to sink into. Choose a base or raise the region.",
    "relief.sunk-through": (
        "The region is sunk {depth:g} mm into a base of {thickness:g} mm and would go through it. Make it "
        'shallower, the base thicker, or type "through".'
    ),
    "relief.nothing-to-build": "There is nothing to build: every region is cut through, or has no height and no base.",
    "stamp.no-outline": "The art is empty: there is no closed outline to stamp.",
    "stamp.no-plate": "A stamp needs a plate: choose outline, rectangle or circle.",
    "stamp.out-of-range": "The stamp's {name:name} must be between {low:g} and {high:g} mm.",
    "stamp.draft": "The stamp's draft must be between 0 and 45 degrees.",
    "stamp.too-many-parts": (
        "The art falls into {parts} separate shapes; with a draft in {steps} steps at most {most} are built. Drop"
        " small parts, or set the draft to 0."
    ),
    "stamp.does-not-fit": (
        "The stamp is {has:.1f} mm {name} and must fit into {may:g} mm. Make the art or the margin smaller."
    ),
    "solid.not-sealed-at": (
        "The regions that meet at x {x:.3f} mm, y {y:.3f} mm cannot be sealed. Move one of them a little."
    ),
    "solid.body-not-sealed": (
        "The body “{body}” would not be sealed: {problem} Nothing was written. Change an outline or a height there."
    ),
}
