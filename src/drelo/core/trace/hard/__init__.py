"""Pictures without antialiasing: what their stairs say of corners, straight edges and every pixel."""
