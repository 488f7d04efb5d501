"""The evaluated frames that playback and rendering walk through."""
