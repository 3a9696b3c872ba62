"""How finely outlines are worked on, and from which turn on a node is a corner: all such numbers."""

# Chords against the extent of all that is worked on: where the result is kept, and where it only says where things are.
EXACT_SHARE = 1 / 20_000
ABOUT_SHARE = 1 / 5000
# Chords in mm: of what is grown, and of what is measured.
GROWN_CHORD = 0.001
MEASURED_CHORD = 0.005
# Distance (mm) that a fitted offset may keep from the true one.
OFFSET_FIT = 0.005
# Turns (radians) from which on there is a corner: in a line of points to which curves are fitted; in an outline whose
# clearance is measured; in one that is eased, which the brush leaves as it is.
FITTED_CORNER = 0.3
MEASURED_CORNER = 0.35
EASED_CORNER = 0.6
