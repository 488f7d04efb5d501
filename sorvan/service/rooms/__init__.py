"""Open productions, and what goes on in them."""
