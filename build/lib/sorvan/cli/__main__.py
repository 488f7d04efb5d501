"""`python -m sorvan.cli` is the `sorvan` command."""

from sorvan.cli.main import main

main()
