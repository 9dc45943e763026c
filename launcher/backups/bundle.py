"""A backup as a file: a tar of the dump, its manifest, and the room's own keys; encrypted with age
where a shop gave its recipients.
"""

import json
import os
import re
import shutil
import subprocess
import tarfile
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path, PurePosixPath
from typing import Any

from launcher import system
from launcher.say import Stop

FORMAT = "tempermark.backup/1"
DUMP, MANIFEST = "database.dump", "manifest.json"
# Without them a room that comes back signs nobody's session and no tablet's certificate.
KEYS = ("secret_key", "authority", "archive_passphrase")
PLAIN, ENCRYPTED = ".tar", ".tar.age"
NAMED = r"{prefix}-(\d{{4}}-\d\d-\d\dT\d{{6}})(\.tar|\.tar\.age)"
STAMP = "%Y-%m-%dT%H%M%S"


@dataclass(frozen=True)
class Bundle:
    """A backup in a folder, by its name."""

    path: Path
    at: datetime


def name_of(room: str, at: datetime, is_encrypted: bool) -> str:
    """`tempermark-2026-11-28T023000.tar`; that of the demo says so."""
    return f"{_prefix(room)}-{at.strftime(STAMP)}{ENCRYPTED if is_encrypted else PLAIN}"


def _prefix(room: str) -> str:
    return "tempermark" if room == "serve" else f"tempermark-{room}"


def bundles(folder: Path, room: str) -> list[Bundle]:
    """The backups of a room in a folder, oldest first; those of another room are not its own."""
    pattern = re.compile(NAMED.format(prefix=_prefix(room)))
    named = ((path, pattern.fullmatch(path.name)) for path in folder.iterdir())
    found = [Bundle(p, datetime.strptime(m[1], STAMP).astimezone()) for p, m in named if m]
    return sorted(found, key=lambda bundle: bundle.at)


def pack(work: Path, manifest: dict[str, Any], keys: Path, to: Path, recipients: str) -> None:
    """Write the bundle beside its place, to the disk, then to its name: a half one never has it."""
    (work / MANIFEST).write_text(json.dumps(manifest, indent=1))
    half = to.with_name(f".{to.name}.part")
    tar = work / "bundle.tar"
    with tarfile.open(tar, "w") as bundle:
        for name in (MANIFEST, DUMP):
            bundle.add(work / name, arcname=name)
        for name in KEYS:
            if (keys / name).exists():
                bundle.add(keys / name, arcname=f"keys/{name}")
    try:
        half.touch(mode=0o600)
        if recipients:
            _encrypt(tar, half, recipients)
        else:
            shutil.copyfile(tar, half)
        with half.open("rb") as written:
            os.fsync(written.fileno())
        half.replace(to)
    except OSError as error:
        raise Stop(f"The backup could not be written: {error.strerror or error}.") from None
    finally:
        half.unlink(missing_ok=True)


def _encrypt(source: Path, to: Path, recipients: str) -> None:
    _need_age()
    command = ["age", "--encrypt", "--recipients-file", recipients, "-o", str(to), str(source)]
    done = subprocess.run(command, capture_output=True, text=True)
    if done.returncode:
        raise Stop(f"The backup could not be encrypted: {done.stderr.strip()[-200:]}")


def unpack(path: Path, work: Path, identity: str) -> dict[str, Any]:
    """Unpack a bundle; its manifest. Raises Stop for what is none, or where the identity is missing
    or another one.
    """
    tar = path
    if path.name.endswith(ENCRYPTED):
        if not identity:
            raise Stop(f"{path.name} is encrypted: give --identity FILE, the shop's age identity.")
        _need_age()
        tar = work / "bundle.tar"
        command = ["age", "--decrypt", "--identity", identity, "-o", str(tar), str(path)]
        done = subprocess.run(command, capture_output=True, text=True)
        if done.returncode:
            raise Stop(f"It could not be decrypted: {done.stderr.strip()[-200:]}")
    try:
        with tarfile.open(tar) as bundle:
            for member in bundle:
                _take_out(bundle, member, work)
        manifest: dict[str, Any] = json.loads((work / MANIFEST).read_text())
    except (OSError, tarfile.TarError, ValueError) as error:
        raise Stop(f"{path.name} is no backup of Tempermark ({error}).") from None
    if manifest.get("format") != FORMAT:
        raise Stop(f"{path.name} is no backup of Tempermark.")
    return manifest


def _take_out(bundle: tarfile.TarFile, member: tarfile.TarInfo, work: Path) -> None:
    """One file, if it is one of those that a bundle has; never a link, never outside."""
    parts = PurePosixPath(member.name).parts
    content = bundle.extractfile(member) if member.isfile() else None
    is_ours = parts in ((MANIFEST,), (DUMP,)) or (parts[:1] == ("keys",) and ".." not in parts)
    if content is None or not is_ours:
        return
    to = work.joinpath(*parts)
    to.parent.mkdir(parents=True, exist_ok=True)
    to.touch(mode=0o600)
    with to.open("wb") as out:
        shutil.copyfileobj(content, out)


def bring_keys_back(work: Path, keys: Path) -> None:
    """Put the room's own keys back where it has none: on a new machine."""
    for name in KEYS:
        kept = work / "keys" / name
        if not kept.exists() or (keys / name).exists():
            continue
        if kept.is_dir():
            shutil.copytree(kept, keys / name)
        else:
            shutil.copy2(kept, keys / name)


def _need_age() -> None:
    if not shutil.which("age"):
        system.install(["age"], "the encryption of backups")
