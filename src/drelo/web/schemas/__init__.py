"""What goes over the wire, as the OpenAPI description states it."""
