"""A piece's past: what a step changed, steps put together to lines, and which of them are kept."""
