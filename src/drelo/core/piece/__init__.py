"""The piece document, its edits and its evaluation."""
