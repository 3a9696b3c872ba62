"""The arrangement of outlines into regions, and who is who after an edit."""
