"""How much an import may ask of the machine."""

BYTES = 64 * 1024 * 1024
"""Bytes of one file."""
PIXELS = 50_000_000
"""Pixels of one picture."""
ALL_PIXELS = 500_000_000
"""Pixels of all pictures of one file."""
SIDE = 16_384
"""Pixels of a picture's longer side."""
DEPTH = 64
"""Groups within groups."""
ELEMENTS = 200_000
"""Elements of one drawing."""
SHAPES = 60_000
"""Shapes of one drawing once what it repeats is repeated."""
USES = 20_000
"""Times that a drawing may repeat parts of itself."""
CLIPS = 400_000
"""Segments that go into working out the clips of one drawing."""
LIST = 8 * 1024 * 1024
"""Bytes of a list of layers."""
MEMORY = 448 * 1024 * 1024
"""Bytes of address space that reading may take beyond what the reader itself takes."""
STANDSTILL = 3
"""Seconds of the processor's time in which reading must come on."""
LONGEST = 180
"""Seconds of the processor's time that reading may take in all."""
BRANCHES = 400
"""Parts of a drawing that are shown to be chosen from."""
