"""Who may do what in a workshop of several people."""
