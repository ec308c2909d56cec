"""What was used lately, and templates: small files in the user's own folders."""

from __future__ import annotations

import json
from pathlib import Path

from platformdirs import user_config_path, user_state_path

__all__ = ["note_recent", "recent_pictures", "template_folder"]

_MOST = 12


def _list_file() -> Path:
    return Path(user_state_path("draxet")) / "recent-pictures.json"


def recent_pictures() -> list[Path]:
    """Picture files used lately that are still there, the newest first."""
    try:
        names = json.loads(_list_file().read_text())
        return [Path(name) for name in names if isinstance(name, str) and Path(name).is_file()]
    except (OSError, ValueError, TypeError):
        return []


def note_recent(path: Path) -> None:
    """Put a file first in the list; where that cannot be written, nothing is lost but the list."""
    names = [str(path.resolve()), *(str(old) for old in recent_pictures() if old != path.resolve())]
    try:
        _list_file().parent.mkdir(parents=True, exist_ok=True)
        _list_file().write_text(json.dumps(names[:_MOST], indent=1))
    except OSError:
        return


def template_folder() -> Path:
    """Where job set-ups are kept to start from."""
    return Path(user_config_path("draxet")) / "templates"
