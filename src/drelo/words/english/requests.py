"""What the server says to requests that it does not do as asked."""

from __future__ import annotations

SENTENCES = {
    "request.superseded": "A newer request has taken the place of this one.",
    "request.busy": "Drelo is busy with other pieces. Nothing was changed; the page will try again in a moment.",
    "request.database-restarts": (
        "The database is restarting. Nothing was changed; the page will try again in a moment."
    ),
    "request.too-deep": "The request is nested far too deeply.",
    "request.unanswered": "The request could not be answered.",
    "request.failed": (
        "Something went wrong in Drelo, and nothing was changed. Try again, or undo the last step. If it happens "
        "again, report it with the number {number}, under which the log says more."
    ),
    "request.no-token": "This page is out of date. Reload it and try again.",
    "request.too-often": "Too many attempts. Wait a few minutes and try again.",
    "request.header-too-long": "The header {header} can have at most {most} characters.",
    "upload.too-large": ("The file is too large; at most {most} MB can be read. Save it with fewer pixels or as JPEG."),
    "piece.unknown": "There is no such piece. It may have been deleted; open the list of pieces.",
    "piece.changed-elsewhere": (
        "This piece was changed in another window. What you see now is how it stands; your own change was not kept, "
        "so make it again if you still want it."
    ),
    "request.too-many-listen": "Too many pages are listening already.",
    "file.cleared": "The file has been cleared away. Export it again.",
    "names.cleared": "The files have been cleared away. Make them again.",
    "rehearsal.cleared": "The rehearsal has been cleared away. Rehearse it again.",
    "picture.unknown": "There is no such picture.",
    "picture.changed": "The picture has changed since. Reload the page.",
    "plan.deleted": "This bed plan is gone: it was deleted.",
    "plan.changed-elsewhere": (
        "The plan was changed elsewhere; version {version} stands. Your last change was not saved."
    ),
    "disk.full": (
        "The disk is full, so the change was not saved. Delete pieces or other files; you can still look at "
        "everything and export it."
    ),
    "right.not-signed-in": "Sign in first.",
    "right.only-looks": "You can look at this piece, but you cannot change it.",
    "right.not-owner": "You can look at this piece, but only its owner can do this.",
    "right.role": "Your role does not allow this. Ask a keeper.",
}
