"""`python -m hookset` is the `hookset` command."""

from hookset.cli.main import run

if __name__ == "__main__":
    run()
