"""Drawing a plan with Skia, and making films of it."""
