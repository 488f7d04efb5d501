"""Speech: voices that say a text, and sounds found in a recording. Engines from the shelf, each behind a small face."""
