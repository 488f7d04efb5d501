"""Open pages: what each looks at, and what it is sent."""
