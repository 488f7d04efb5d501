"""Changes: the closed list of commands, what each writes, and taking it back."""
