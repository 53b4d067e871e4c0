"""The spec book: the specs that ship, and the user's own beside them, as TOML files."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from fractions import Fraction
from functools import lru_cache
from importlib import resources
from pathlib import Path

from pydantic import ValidationError

from waxseal.core.atomic_write import write_safely
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.errors import JobError, UnreadableInput
from waxseal.core.folders import specs_folder
from waxseal.core.foreign_text import ForeignTextError, parse_toml, read_foreign
from waxseal.core.job.model import shape_words
from waxseal.core.job.values import sentence_of
from waxseal.core.text_format import plain

__all__ = ["Book", "read_spec", "remove_spec", "save_spec", "shipped", "spec_book", "write_spec"]

LARGEST_BYTES = 1 << 16
SUFFIX = ".toml"


class Book:
    """Specs by their names.

    own: the files of the user's, by the names of their specs. troubles: sentences on files
    that are none.
    """

    def __init__(
        self,
        specs: Iterable[Spec],
        own: Mapping[str, Path] | None = None,
        troubles: tuple[str, ...] = (),
    ) -> None:
        self._specs = {one.name.casefold(): one for one in specs}
        self._own = {name.casefold(): path for name, path in (own or {}).items()}
        self.troubles = troubles

    def file_of(self, name: str) -> Path | None:
        """The user's file that a spec is in; None of one that comes with Wax Seal."""
        return self._own.get(name.casefold())

    def __iter__(self) -> Iterator[Spec]:
        return iter(self._specs.values())

    def get(self, name: str) -> Spec | None:
        return self._specs.get(name.casefold())

    def named(self, name: str) -> Spec:
        """The spec of that name, in whatever case. Raises JobError."""
        found = self.get(name)
        if found is None:
            known = ", ".join(one.name for one in self._specs.values())
            raise JobError(f"There is no spec “{name}” in the book: choose one of {known}.")
        return found


@lru_cache(maxsize=1)
def shipped() -> tuple[Spec, ...]:
    """The specs that come with Wax Seal, in the order of their files."""
    folder = resources.files("waxseal.core.deliver.specs") / "book"
    files = sorted(file.name for file in folder.iterdir() if file.name.endswith(SUFFIX))
    return tuple(spec_in((folder / name).read_text(encoding="utf-8"), name) for name in files)


def spec_book() -> Book:
    """All there are now: one of the user's takes the place of a shipped one of its name."""
    own, files, troubles = [], {}, []
    folder = specs_folder()
    for path in sorted(folder.glob(f"*{SUFFIX}")) if folder.is_dir() else ():
        try:
            own.append(read_spec(path))
            files[own[-1].name] = path
        except UnreadableInput as error:
            troubles.append(str(error))
    return Book((*shipped(), *own), files, tuple(troubles))


def read_spec(path: Path) -> Spec:
    """Raises UnreadableInput with the line where the file is wrong."""
    try:
        text = read_foreign(path, LARGEST_BYTES).decode("utf-8")
    except (OSError, ForeignTextError) as error:
        why = getattr(error, "strerror", None) or error
        raise UnreadableInput(f"{plain(path.name)} cannot be read: {why}.", path=path) from None
    except UnicodeDecodeError:
        why = "it is no text"
        raise UnreadableInput(f"{plain(path.name)} cannot be read: {why}.", path=path) from None
    return spec_in(text, path.name)


def spec_in(text: str, name: str) -> Spec:
    """The spec of a file's text. Raises UnreadableInput with the line where it is wrong."""
    try:
        values = parse_toml(text)
    except ForeignTextError as error:
        line = f", line {error.line}" if error.line else ""
        raise UnreadableInput(f"{plain(name)}{line}: {error}.") from None
    try:
        return Spec.model_validate(values)
    except RecursionError:
        raise UnreadableInput(f"{plain(name)}: it is nested too deep.") from None
    except ValidationError as error:
        where = error.errors(include_url=False, include_input=False)[0]["loc"]
        number = line_of(text, str(where[0])) if where else 0
        at = f", line {number}" if number else ""
        raise UnreadableInput(f"{plain(name)}{at}: {sentence_of(error)}") from None


def line_of(text: str, key: str) -> int:
    """The line, from 1, where a key is set; 0 where it is not."""
    for number, line in enumerate(text.splitlines(), 1):
        if re.match(rf"\s*{re.escape(key)}\s*=", line):
            return number
    return 0


def write_spec(spec: Spec) -> str:
    """A spec as the text of its file: what is as it would be anyway is left out."""
    lines = []
    for name, field in type(spec).model_fields.items():
        value = getattr(spec, name)
        if field.is_required() or value != field.default:
            lines.append(f"{name} = {toml(value)}")
    return "\n".join(lines) + "\n"


def toml(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, tuple):
        return f"[{', '.join(toml(one) for one in value)}]"
    if isinstance(value, int | float):
        return f"{value}"
    words = shape_words(value) if isinstance(value, Fraction) else str(value)
    text = words.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n")
    return f'"{text}"'


def save_spec(spec: Spec, *, replaces: str = "") -> Path:
    """Put a spec among the user's own. replaces: the name of one that it was. Raises JobError."""
    book = spec_book()
    before = book.file_of(replaces) if replaces else None
    path = book.file_of(spec.name) or before or free_file(spec.name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_safely(path, write_spec(spec).encode())
        if before is not None and before != path:
            before.unlink()
    except OSError as error:
        raise JobError(f"{plain(path)} cannot be written: {error.strerror}.", path=path) from None
    return path


def free_file(name: str) -> Path:
    """A file of the user's for a spec of a name; none that is there."""
    stem = re.sub(r"[^\w.-]+", "-", name).strip("-.") or "spec"
    path, number = specs_folder() / f"{stem}{SUFFIX}", 2
    while path.exists():
        path, number = path.with_name(f"{stem}-{number}{SUFFIX}"), number + 1
    return path


def remove_spec(name: str) -> None:
    """Take a spec of the user's out of the book; one that ships comes back in its place.

    Raises JobError.
    """
    path = spec_book().file_of(name)
    if path is None:
        raise JobError(f"“{name}” comes with Wax Seal: it cannot be removed.")
    try:
        path.unlink()
    except OSError as error:
        raise JobError(f"{plain(path)} cannot be removed: {error.strerror}.", path=path) from None
