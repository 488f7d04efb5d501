"""What is asked for over HTTP, and the live socket."""
