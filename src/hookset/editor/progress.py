"""That something long is being done, as an editor shows it."""

from __future__ import annotations

import uuid

from lsprotocol import types as lsp
from pygls.exceptions import JsonRpcException
from pygls.lsp.server import LanguageServer

__all__ = ["begun", "ended"]


async def begun(server: LanguageServer, title: str) -> str:
    """Have the editor show it; returns what it is ended by, nothing where the editor shows no such things."""
    window = server.client_capabilities.window
    if window is None or not window.work_done_progress:
        return ""
    token = str(uuid.uuid4())
    try:
        await server.work_done_progress.create_async(token)
    except JsonRpcException:
        # It may say no: then nothing is shown.
        return ""
    server.work_done_progress.begin(token, lsp.WorkDoneProgressBegin(title=title))
    return token


def ended(server: LanguageServer, token: str) -> None:
    """Have the editor show it no longer."""
    if token:
        server.work_done_progress.end(token, lsp.WorkDoneProgressEnd())
