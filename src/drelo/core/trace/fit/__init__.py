"""Lines and cubics in the unknowns that a fit may move, and the picture that they are held against."""
