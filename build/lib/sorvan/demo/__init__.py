"""The demo production: a ferry quay at dusk, cut from paper by code."""
