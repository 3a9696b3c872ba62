"""Other machines that do the work: an existing engine carries jobs to the pools that they run."""
