"""`python -m bovrin`."""

from bovrin.cli import main

main()
