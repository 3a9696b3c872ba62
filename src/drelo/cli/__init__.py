"""The headless commands and the start command."""
