"""`python -m perisect.cli`."""

from perisect.cli import app

# Readers are started anew by a fork server, which imports this again under another name.
if __name__ == "__main__":
    app()
