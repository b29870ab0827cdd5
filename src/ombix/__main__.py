"""`python -m ombix`."""

from ombix.cli.main import main

if __name__ == "__main__":
    main()
