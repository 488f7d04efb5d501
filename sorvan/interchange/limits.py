"""How much an import may ask of the machine."""

BYTES = 64 * 1024 * 1024
PIXELS = 64_000_000
SIDE = 16_384
DEPTH = 64
ELEMENTS = 200_000
USES = 20_000
