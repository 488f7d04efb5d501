"""`python -m sorvan.cli` is the `sorvan` command."""

from sorvan.cli.command import main

main()
