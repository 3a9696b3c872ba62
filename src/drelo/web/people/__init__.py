"""A shared workshop on the web: signing in, rights on every address, people, sharing. Not there for one maker alone."""
