"""Drawings as computed with: their colours, their outlines, and shapes drawn here."""
