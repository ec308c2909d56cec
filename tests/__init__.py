"""The tests. The demo's own scripts, which know the truth of its pictures, can be imported by
them."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "demo"))
