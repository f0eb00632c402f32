"""The user's guide inside the application, with the glossary, and one term beside the page that asks for it."""

from fastapi import HTTPException, Request
from starlette.responses import FileResponse, RedirectResponse, Response

from clavis import __version__
from clavis.core.wording.glossary import TERMS
from clavis.web.shell import routes
from clavis.web.shell.readers import ReaderDep
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.templates import render
from clavis.web.user_guide.chapters import chapters, picture

router = routes.router()


@router.get("/guide", dependencies=APPRENTICE)
def first() -> Response:
    return RedirectResponse(f"/guide/{next(iter(chapters()), 'glossary')}", 303)


@router.get("/guide/glossary", dependencies=APPRENTICE)
def glossary(request: Request, reading: ReaderDep) -> Response:
    return render(request, reading, "user_guide/glossary.html", chapters=chapters(), chapter=None, terms=TERMS,
                  version=__version__)  # fmt: skip


@router.get("/guide/terms/{key}", dependencies=APPRENTICE)
def term(request: Request, reading: ReaderDep, key: str) -> Response:
    """One term, to be shown beside the page."""
    if key not in TERMS:
        raise HTTPException(404, "There is no such term in the glossary.")
    return render(request, reading, "user_guide/term.html", key=key, term=TERMS[key])


@router.get("/guide/pictures/{name}", dependencies=APPRENTICE)
def picture_of(name: str) -> Response:
    path = picture(name)
    if path is None:
        raise HTTPException(404, "There is no such picture in the guide.")
    return FileResponse(path, media_type="image/png", headers={"Cache-Control": "max-age=3600"})


@router.get("/guide/{key}", dependencies=APPRENTICE)
def chapter(request: Request, reading: ReaderDep, key: str) -> Response:
    found = chapters().get(key)
    if found is None:
        raise HTTPException(404, "There is no such chapter in the guide.")
    return render(request, reading, "user_guide/chapter.html", chapters=chapters(), chapter=found, version=__version__)
