"""Filaments, beds, rehearsals, printers and lists of names."""

from __future__ import annotations

SENTENCES = {
    "filament.no-other": "Choose another filament to take its place.",
    "filament.none-of-that-name": "The piece has no filament with that name.",
    "filament.shelf-full": "The shelf holds at most {most} filaments. Remove one first.",
    "bed.file-cleared": "A piece's file was cleared away while it was being read. Try again.",
    "bed.empty": "There is nothing on this bed.",
    "bed.unknown": "There is no such bed.",
    "bed.too-many-copies": "That comes to {count} copies; at most {most} can be laid out. Lay out fewer.",
    "bed.no-room": "There is no room for all of it. Unpin a copy, or lay out fewer.",
    "bed.too-large": (
        "Number {number} in the list is {wide:.0f} × {deep:.0f} mm and fits on no bed of this printer. Make it "
        "smaller, or choose another printer."
    ),
    "bed.piece-too-large": "{name} is {wide:.1f} × {deep:.1f} mm and does not fit the bed.",
    "bed.too-many-pieces": "There are too many pieces to lay out on beds. Lay out fewer at a time.",
    "bed.too-many-plans": "There are {most} bed plans already. Delete one first.",
    "bed.twice": "A piece is in the list twice. Give it more copies instead.",
    "bed.stray-place": "A place belongs to no piece in the list.",
    "bed.piece-gone-or-unshared": "A piece in the list was deleted, or is not shared with you.",
    "bed.piece-gone": "A piece in the list was deleted.",
    "bed.not-shared": "It is no longer shared with you. Remove it here.",
    "bed.deleted": "This piece was deleted. Bring it back, or remove it here.",
    "rehearsal.file-cleared": "The file was cleared away while it was being rehearsed. Try again.",
    "rehearsal.not-sealed": "{file}, body “{body}”, is not sealed; only a sealed mesh can be printed.",
    "rehearsal.too-many-layers": "That comes to more than {most} layers. Choose thicker layers.",
    "rehearsal.empty": "There is nothing to print.",
    "printer.none": "There is no printer here.",
    "printer.away": "The printer is not answering. It is being restarted; try again in a moment.",
    "printer.too-large-a-print": "The print is {how} for {name}. Make it smaller, or choose another printer.",
    "printer.busy": "The printer is busy with another print. Wait for it, or stop it.",
    "printer.shelf-full": "There are {most} printers already. Remove one first.",
    "printer.last": "This is the only printer. Add another one before you remove it.",
    "printer.layers-swapped": "The thinnest layer is thicker than the thickest one.",
    "printer.says": "{detail}",
    "printer.refused": "The printer refused it ({status}).",
    "outcome.other-form": "Only a stamp prints, and only a cutter cuts biscuits.",
    "outcome.nothing": "There is nothing to print or to bake yet.",
    "names.no-words": "Set words on the piece first: every name takes their place.",
    "names.length": "A name can have 1 to {most} letters.",
    "names.not-utf8": "The list of names is not UTF-8 text. Save it as UTF-8.",
    "names.line-unreadable": "Line {line} of the list of names cannot be read: {reason}.",
    "names.none": "There are no names in the list. Write one name per line.",
    "names.too-many": "The list has {count} names; at most {most} can be made at once.",
    "names.too-large-together": (
        "{count} names of {each:.1f} MB each are more than {most} GB. Make fewer at a time, or choose a lower fineness."
    ),
    "names.no-longer-kept": "{name} has been cleared away. Make them again.",
}
