"""Mode strokes: middle lines with their widths."""
