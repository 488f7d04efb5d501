"""Workers: whatever takes long, done away from the service."""
