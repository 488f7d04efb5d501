"""The voice: sounds and the mouths that are seen with them, their times, and the face around them."""
