"""Which chapter of the guide explains a page: the help key and the guide's own link lead there."""

import re

# The first word of an address, or of an address within a job, and its chapter.
CHAPTER_OF: dict[str, str] = {
    "": "jobs", "due": "keep", "bikes": "keep", "people": "keep", "parts": "parts", "rides": "ride", "rules": "limits",
    "keys": "jobs", "intake": "intake", "guide": "intake", "measure": "measure", "ride": "ride", "choose": "choose",
    "compare": "choose", "fit": "fit", "special": "fit", "build": "build", "work": "build", "bedding": "build",
    "papers": "build", "prove": "prove", "keep": "keep", "fleet": "keep", "history": "jobs",
}  # fmt: skip
_OF_JOB = re.compile(r"^/jobs/\d+/?(?P<room>[a-z]*)")


def help_of(address: str) -> str:
    """The address of the chapter for a page.

    >>> help_of("/jobs/7/measure?place=rotor"), help_of("/bikes/3"), help_of("/")
    ('/guide/measure', '/guide/keep', '/guide/jobs')
    """
    path = address.partition("?")[0]
    if path.startswith("/guide"):
        return path
    of_job = _OF_JOB.match(path)
    word = of_job["room"] if of_job else path.strip("/").partition("/")[0]
    return f"/guide/{CHAPTER_OF.get(word, 'first-day')}"
