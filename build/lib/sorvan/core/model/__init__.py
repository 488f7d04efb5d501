"""The documents of a production. Each is an immutable value; a change makes a new one."""
