"""Rendered frame sequences in, checked and sealed delivery videos out."""

import os

__version__ = "0.1.0"

# Nothing from elsewhere is plugged into the models; looking for it costs a start 50 ms.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
