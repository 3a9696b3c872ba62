"""Pieces, people and machines."""

from __future__ import annotations

SENTENCES = {
    "within": "{name}: {refusal}",
    "piece.asset-missing": "A picture or font of this piece is missing. Add it again.",
    "piece.several-of-that-name": (
        "{count} pieces are called {wanted}. Give the id of one: ./drelo piece list shows them."
    ),
    "piece.none-of-that-name": "There is no piece {wanted}. ./drelo piece list shows which there are.",
    "piece.no-picture": "The piece has no picture yet. Drop one on the page to begin.",
    "piece.no-such-picture": "The piece no longer has a picture with that name.",
    "piece.no-such-thing": "The piece has no {kind} with that name.",
    "piece.too-many-things": "There can be at most {most} {kind}. Remove one first.",
    "piece.newer": "This piece was saved by a newer Drelo (version {version}). Open it with that one.",
    "piece.damaged": "The document is damaged: {problem}.",
    "piece.too-far": "Something would be more than a kilometre away. Move it closer, or make it smaller.",
    "piece.no-such-picture-yet": "The piece has no such picture. Drop one on the page to begin.",
    "edit.invalid": "{problem}.",
    "people.nobody-of-that-name": "Nobody signs in as {name}. ./drelo people list shows everybody.",
    "people.name-pattern": "A name to sign in with has 2 to 40 small letters, digits, dots, dashes or underscores.",
    "people.name-taken": "This name is taken. Choose another one.",
    "people.account-gone": "This account no longer exists.",
    "people.last-keeper": "A workshop needs at least one keeper. Make somebody else a keeper first.",
    "people.link-used": "This link has already been used or has expired. Ask for a new one.",
    "people.invitation-used": "This invitation has already been used or has expired. Ask for a new one.",
    "password.not-yours": "That is not your password.",
    "password.two-different": "The two passwords are not the same. Try again.",
    "password.length": "A password has {shortest} to {longest} characters. A few words in a row are easy to remember.",
    "password.guessed": (
        "This password is too easy to guess. Use a few words that have nothing to do with each other."
    ),
    "sign-in.wrong": "That did not match. Check your name, your password and, if you use one, the code.",
    "second-factor.wrong-code": "That code is not right. Check that your phone's clock is right.",
    "limits.megabytes": (
        "You have room for {megabytes} MB in this workshop, and it is used up. Delete some pieces, or ask a "
        "keeper for more."
    ),
    "limits.minutes": (
        "You have {minutes} min of computing a day in this workshop, and today's are used up. Carry on tomorrow, or "
        "ask a keeper for more."
    ),
    "limits.pieces": (
        "You have room for {pieces:# piece|# pieces} in this workshop, and it is used up. Delete some, or ask a "
        "keeper for more."
    ),
    "machines.short-key": (
        "DRELO_MACHINES_KEY must have at least {least} characters, the same on every machine; make one with: "
        "openssl rand -hex 32"
    ),
    "machines.address": "The address of the broker begins with redis:// or, over TLS, rediss://.",
    "machines.name-taken": "A machine called {name} has joined already. Choose another name with --name.",
    "machines.went-away": (
        "Machines kept dropping out while this was being worked out. Undo the last step, or make the picture "
        "smaller or simpler."
    ),
    "work.failed-twice": "This failed twice. Undo the last step, or make the picture smaller or simpler.",
    "work.too-slow": (
        "This took longer than {seconds:.0f} s and was stopped. Make the picture or drawing smaller or simpler."
    ),
    "work.too-much-memory": (
        "This needs more memory than one piece may use. Make the picture smaller, or remove the finest detail."
    ),
}
