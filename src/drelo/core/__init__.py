"""The job's rules and computation.

Values in, values out. What may not be in here: Flask, SQLAlchemy, files, the clock, the network.
Inside, a folder may import only the ones before it:
outline, picture, trace, region, form, solid, piece.
"""
