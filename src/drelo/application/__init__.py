"""Orders the work of the application: who works a task out, what of it is stored, and what is found again."""
