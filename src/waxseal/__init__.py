"""Rendered frame sequences in, checked and sealed delivery videos out."""

import os

__version__ = "0.1.0"

# Nothing from elsewhere is plugged into the models; looking for it costs a start 50 ms.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")

# A library's own threads take turns with ours: where all cores are busy they wait for one another
# by spinning, and a sum depends on how many there are. Said before the first of them is imported.
for name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"):
    os.environ[name] = "1"
