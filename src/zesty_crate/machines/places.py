"""The usual places of each system, as templates that build on each other.

Windows: the known folders' default paths. macOS: the File System Programming Guide's standard directories.
Linux: the XDG Base Directory Specification and xdg-user-dirs.
"""

from __future__ import annotations

from ..paths import System

USUAL_PLACES: dict[System, dict[str, str]] = {
    System.WINDOWS: {
        "home": r"C:\Users\{user}",
        "documents": r"{home}\Documents",
        "pictures": r"{home}\Pictures",
        "music": r"{home}\Music",
        "movies": r"{home}\Videos",
        "desktop": r"{home}\Desktop",
        "downloads": r"{home}\Downloads",
        "app-data": r"{home}\AppData\Roaming",
        "app-data-local": r"{home}\AppData\Local",
        "shared-data": r"C:\ProgramData",
        "config": r"{app-data}",
        "preferences": r"{app-data}",
        "programs": r"C:\Program Files",
        "temp": r"{app-data-local}\Temp",
    },
    System.MACOS: {
        "home": "/Users/{user}",
        "documents": "{home}/Documents",
        "pictures": "{home}/Pictures",
        "music": "{home}/Music",
        "movies": "{home}/Movies",
        "desktop": "{home}/Desktop",
        "downloads": "{home}/Downloads",
        "app-data": "{home}/Library/Application Support",
        "app-data-local": "{home}/Library/Application Support",
        "shared-data": "/Library/Application Support",
        "config": "{app-data}",
        "preferences": "{home}/Library/Preferences",
        "programs": "/Applications",
        "temp": "/private/tmp",
    },
    System.LINUX: {
        "home": "/home/{user}",
        "documents": "{home}/Documents",
        "pictures": "{home}/Pictures",
        "music": "{home}/Music",
        "movies": "{home}/Videos",
        "desktop": "{home}/Desktop",
        "downloads": "{home}/Downloads",
        "app-data": "{home}/.local/share",
        "app-data-local": "{home}/.local/share",
        "shared-data": "/usr/local/share",
        "config": "{home}/.config",
        "preferences": "{config}",
        "programs": "/opt",
        "temp": "/tmp",
    },
}

# Variables that represent a place, by their names in capitals (Windows: "Recognized environment variables";
# elsewhere the shell's own, and those of the XDG Base Directory Specification and xdg-user-dirs).
VARIABLES: dict[System, dict[str, str]] = {
    System.WINDOWS: {
        "USERPROFILE": "home",
        "HOME": "home",
        "APPDATA": "app-data",
        "LOCALAPPDATA": "app-data-local",
        "PROGRAMDATA": "shared-data",
        "ALLUSERSPROFILE": "shared-data",
        "PROGRAMFILES": "programs",
        "TEMP": "temp",
        "TMP": "temp",
    },
    System.MACOS: {"HOME": "home", "TMPDIR": "temp"},
    System.LINUX: {
        "HOME": "home",
        "XDG_CONFIG_HOME": "config",
        "XDG_DATA_HOME": "app-data",
        "XDG_MUSIC_DIR": "music",
        "XDG_PICTURES_DIR": "pictures",
        "XDG_VIDEOS_DIR": "movies",
        "XDG_DOCUMENTS_DIR": "documents",
        "XDG_DESKTOP_DIR": "desktop",
        "XDG_DOWNLOAD_DIR": "downloads",
    },
}
