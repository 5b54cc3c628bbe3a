"""The pairing page: plain HTML that answers before anyone is let in, and nothing else does."""

from __future__ import annotations

import base64
import hashlib
from html import escape
from urllib.parse import quote

from starlette.responses import HTMLResponse, RedirectResponse

from neatpatch.services.sharing.pairing import LONGEST_NAME

COOKIE = "__Host-neatpatch"
_LASTS_S = 90 * 24 * 3600
_STYLE = """
:root { color-scheme: light dark; }
body { margin: 0; display: grid; place-items: start center; min-height: 100vh;
  font: 1.05rem/1.5 system-ui, sans-serif; }
main, form, label { display: grid; grid-template-columns: minmax(0, 1fr); gap: 1rem; }
main { width: min(26rem, 92vw); padding: 1rem 0; }
label { gap: 0.3rem; }
h1, p { margin: 0; }
input, button { font: inherit; padding: 0.7rem; border: 1px solid; border-radius: 6px; }
.code { font-size: 1.8rem; letter-spacing: 0.3em; }
button { border: 0; color: #fff; background: #0b6570; font-weight: 650; }
.wrong { padding: 0.7rem; border-left: 5px solid #b3261e; }
"""
_SCRIPT = """
const code = location.hash.slice(1)
if (/^[0-9]{6}$/.test(code)) document.querySelector('[name=code]').value = code
history.replaceState(null, '', location.pathname + location.search)
"""


def _source(text: str) -> str:
    digest = hashlib.sha256(text.encode()).digest()
    return f"'sha256-{base64.b64encode(digest).decode()}'"


_HEADERS = {
    "Content-Security-Policy": f"default-src 'none'; style-src {_source(_STYLE)}; "
    f"script-src {_source(_SCRIPT)}; form-action 'self'; frame-ancestors 'none'; base-uri 'none'",
    "Cache-Control": "no-store",
    "Referrer-Policy": "same-origin",
}
"""With no referrer at all a browser would send the form under no origin."""


def inner_path(to: str) -> str:
    """Where to go once let in: a page of ours, or the first one."""
    ours = to.startswith("/") and not to.startswith(("//", "/\\")) and to.isprintable()
    return to if ours and len(to) <= 200 else "/"


def pairing_page(to: str, wrong: str = "", name: str = "", status: int = 200) -> HTMLResponse:
    """The page; ``wrong``: why the last try opened nothing."""
    message = f'<p class="wrong" role="alert">{escape(wrong)}</p>' if wrong else ""
    page = f"""<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Neat Patch, pair this device</title>
<style>{_STYLE}</style>
</head>
<body>
<main>
<h1>Pair this device</h1>
<p>The other screen shows a code of six digits. It lives two minutes.</p>
{message}
<form method="post" action="/pair">
<input type="hidden" name="to" value="{escape(inner_path(to), quote=True)}">
<label>Who is working<input name="name" autocomplete="name" maxlength="{LONGEST_NAME}"
 value="{escape(name, quote=True)}" required></label>
<label>Code<input class="code" name="code" inputmode="numeric" autocomplete="one-time-code"
 pattern="[0-9]{{6}}" maxlength="6" required></label>
<button>Pair</button>
</form>
<p>Steps logged here carry this name.</p>
</main>
<script>{_SCRIPT}</script>
</body>
</html>
"""
    return HTMLResponse(page, status, headers=_HEADERS)


def let_in(token: str, to: str) -> RedirectResponse:
    """Off to the page, with the token in a cookie that scripts and other pages never see."""
    answer = RedirectResponse(inner_path(to), 303, headers={"Cache-Control": "no-store"})
    answer.set_cookie(
        COOKIE, token, max_age=_LASTS_S, path="/", secure=True, httponly=True, samesite="strict"
    )
    return answer


def to_pairing(path: str) -> RedirectResponse:
    """Who is not let in finds the pairing page."""
    return RedirectResponse(f"/pair?to={quote(inner_path(path), safe='/')}", 303)
