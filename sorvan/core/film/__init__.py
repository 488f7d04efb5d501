"""The film: its shots one after the other, as they are drawn and heard."""
