"""Where long computations run."""
