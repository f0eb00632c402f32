"""Settings, from the environment with the prefix CLAVIS_."""

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


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
    background: bool = True
    """keep lists up to date beside the pages; tests do it when they ask for it"""
    stand_in_gauges: bool = False
    """offer invented gauge readings on every job, for practice; else on demo jobs alone"""
