"""Forms: what a design must be before it is raised."""
