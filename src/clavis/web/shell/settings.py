"""Settings, from the environment with the prefix CLAVIS_."""

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict

from clavis.store.accounts import over_network


class Settings(BaseSettings):
    """Where the database is, where the pages are served, who may ask for them."""

    model_config = SettingsConfigDict(env_prefix="CLAVIS_")

    database: Path = Path("var/clavis.db")
    host: str = "127.0.0.1"
    port: int = 8000
    allowed_hosts: list[str] = ["127.0.0.1", "localhost"]
    upload_limit_mb: int = 24
    currency: str = "kr"
    supplier_url: str = ""
    """where the supplier is asked; none: nobody is"""
    supplier_timeout_s: float = 2.0
    instruments: dict[str, str] = {}
    """instruments of the road by kind, each with its address: a serial port, or a socket that stands for one"""
    backups: Path | None = None
    """where a copy of every day is kept; none: in a folder beside the database"""
    backup_days: int = 14
    """for so long"""
    sign_in: bool = False
    """ask for it on the machine itself as well; reached over a network it is always asked for"""
    behind_proxy: bool = False
    """another program on this machine hands requests on from a network"""
    background: bool = True
    """keep lists up to date beside the pages; tests do it when they ask for it"""
    stand_in_gauges: bool = False
    """offer invented gauge readings on every job, for practice; else on demo jobs alone"""

    @property
    def asks_for_sign_in(self) -> bool:
        """Whether nobody comes in without an account."""
        return self.sign_in or over_network(self.host, behind_proxy=self.behind_proxy)
