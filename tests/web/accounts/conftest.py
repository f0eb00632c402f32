"""A workshop with three accounts, reached over a network."""

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from clavis.store import accounts
from clavis.store.accounts import Role
from clavis.web.app import create_app
from clavis.web.shell.settings import Settings

PASSWORD = "a long enough one"
SAME = {"sec-fetch-site": "same-origin"}
PEOPLE = {"Adam Apprentice": Role.APPRENTICE, "Mara Mechanic": Role.MECHANIC, "Olga Owner": Role.OWNER}


@pytest.fixture
def app_of_shop(tmp_path: Path, demo_database: Path, quick_hash: None) -> Iterator[object]:
    copy = tmp_path / "shop.db"
    shutil.copy(demo_database, copy)
    app = create_app(Settings(database=copy, allowed_hosts=["testserver"], background=False, sign_in=True))
    with app.state.sessions() as session:
        for name, role in (
            ("Olga Owner", Role.OWNER),
            ("Mara Mechanic", Role.MECHANIC),
            ("Adam Apprentice", Role.APPRENTICE),
        ):
            accounts.add(session, name, PASSWORD, role, "cli")
    yield app
    app.state.engine.dispose()


@pytest.fixture
def signed_in(app_of_shop: object) -> Callable[[str], TestClient]:
    def client_of(name: str) -> TestClient:
        client = TestClient(app_of_shop, headers=SAME, follow_redirects=False)  # type: ignore[arg-type]
        client.cookies.set("clavis_who", "Somebody%20Else")
        if name:
            answer = client.post(
                "/sign-in", data={"name": name, "password": PASSWORD, "back": "/jobs/7/choose?view=ladder"}
            )
            assert (answer.status_code, answer.headers["location"]) == (303, "/jobs/7/choose?view=ladder")
            cookie = answer.headers["set-cookie"]
            assert "HttpOnly" in cookie and "SameSite=strict" in cookie
        return client

    return client_of
