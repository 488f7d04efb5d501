"""Reading SVG: named groups become pieces, vectors stay vectors."""
