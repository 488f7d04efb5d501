"""What people get wrong: each check names a mistake, shows where it is, and mends it where that is safe."""
