"""What is read off the picture: level lines, samples along them, how much lines cover of each pixel."""
