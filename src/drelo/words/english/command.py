"""The command line: starting, settings, backups."""

from __future__ import annotations

SENTENCES = {
    "command.names-a-file-for-pieces": "{path} is a file; name a folder for the pieces.",
    "command.copies": "--copies must be a number from 1 to 1000.",
    "command.preset-and-manner": "Give --preset or --manner, not both.",
    "command.names-a-file-for-layers": "{path} is a file; name a folder for the layers.",
    "command.bad-table": "{what}: {problem:lower}.",
    "command.port": "--port must be a number from 1 to 65535.",
    "command.mm-per-px": "--mm-per-px must be a number above 0 and up to 1000.",
    "command.option-of-other-mode": "--{name} goes with --mode {modes:or}.",
    "command.background": "--background takes a colour like #fff8e7, or none.",
    "command.workers": "--workers must be a number from 1 to 64.",
    "check.not-sealed": "{file}, body “{body}”, is not sealed: {problems:sentences}",
    "batch.no-text": "A batch sets every name in the recipe's words: give the art as text.",
    "batch.failed": "{first} Nothing was written.",
    "batch.failed-more": "{first} And {more} more. Nothing was written.",
    "start.step-failed": "{name} failed: {reason}",
    "start.needs-shared": (
        "DRELO_LISTEN is {listen}: others could come in, and nobody would ask who they are. Start it with "
        "--shared, or let it listen on 127.0.0.1."
    ),
    "start.another-migrates": "Another Drelo is still bringing the database up. Start this one when it is done.",
    "start.no-keeper": "Nobody keeps this workshop yet. Make the first keeper: ./drelo people keeper NAME",
    "start.short-secret": "DRELO_SECRET must have at least {least} characters; make one with: openssl rand -hex 32",
    "start.port-taken": "Port {port} cannot be used on {address} ({reason}). Choose another with --port N.",
    "settings.invalid": "{name} cannot be {value!r}: {problem:lower}.",
    "folder.unusable": "The data folder {folder} cannot be used: {reason}. Set {setting}.",
    "folder.taken": "Another Drelo is using the data folder {folder}. Stop it, or set {setting} to another folder.",
    "backup.damaged": "The backup {path} is damaged. Use an earlier one.",
    "backup.unreadable": "The backup {path} cannot be read: {reason}.",
    "backup.not-one": "{path} is not a Drelo backup, or it is damaged.",
    "backup.newer": "This backup was made by a newer Drelo. Restore it with that version.",
    "restore.folder-in-use": (
        "There are pieces in the data folder {folder} already; nothing was touched. Set {setting} to a new folder, or "
        "move this one away."
    ),
    "restore.database-in-use": "There are pieces in the database of DRELO_DATABASE already; nothing was touched.",
}
