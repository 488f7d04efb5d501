"""Motions edited: posed by the hand, on cards and on the sheet, moved in time, mirrored."""
