"""Shots put together: time put in and cut, steps fitted, spans that go on from one another, poses laid over."""
