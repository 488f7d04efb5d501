"""The skeleton, and keeping it whole."""
