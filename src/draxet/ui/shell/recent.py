"""What was used lately, and templates: small files in the user's own folders."""

from __future__ import annotations

import json
from pathlib import Path

__all__ = ["note_recent", "recent", "template_folder", "templates"]

_MOST = 12


def _list_file(kind: str) -> Path:
    from platformdirs import user_state_path  # slow to load

    return Path(user_state_path("draxet")) / f"recent-{kind}.json"


def recent(kind: str) -> list[Path]:
    """Files of a kind (``pictures`` or ``jobs``) used lately that are still there, the newest
    first."""
    try:
        names = json.loads(_list_file(kind).read_text())
        return [Path(name) for name in names if isinstance(name, str) and Path(name).is_file()]
    except (OSError, ValueError, TypeError):
        return []


def note_recent(kind: str, path: Path) -> None:
    """Put a file first in the list of its kind; where that cannot be written, nothing is lost but
    the list."""
    path = path.absolute()
    names = [str(path), *(str(old) for old in recent(kind) if old != path)]
    try:
        _list_file(kind).parent.mkdir(parents=True, exist_ok=True)
        _list_file(kind).write_text(json.dumps(names[:_MOST], indent=1))
    except OSError:
        return


def template_folder() -> Path:
    """Where job set-ups are kept to start from."""
    from platformdirs import user_config_path  # slow to load

    return Path(user_config_path("draxet")) / "templates"


def templates() -> list[Path]:
    """The set-ups that are kept, by name."""
    return sorted(template_folder().glob("*.draxet"))
