"""One drawing becoming another."""
