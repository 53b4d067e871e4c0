"""`waxseal specs`: the spec book."""

from __future__ import annotations

from waxseal.cli.terminal import DONE, FINDINGS, answer, say, tell
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import spec_book, write_spec
from waxseal.core.deliver.specs.spec_values import Purpose
from waxseal.core.job.model import Alpha

__all__ = ["run_specs"]


def run_specs(name: str | None, *, as_json: bool) -> int:
    """All of them, or one as its file. Returns the exit code. Raises JobError."""
    book = spec_book()
    for trouble in book.troubles:
        say(trouble)
    if name is not None:
        spec = book.named(name)
        if as_json:
            answer({"specs": [facts(spec)]})
        else:
            tell(*write_spec(spec).splitlines())
    elif as_json:
        answer({"specs": [facts(spec) for spec in book]})
    else:
        for purpose in Purpose:
            specs = [one for one in book if one.purpose is purpose]
            if specs:
                tell(purpose.label)
            for one in specs:
                tell(f"  {one.name:<22} {' · '.join(one.gives())}")
    return FINDINGS if book.troubles else DONE


def facts(spec: Spec) -> dict[str, object]:
    """The keys that scripts rely on."""
    return {
        "name": spec.name,
        "title": spec.about,
        "purpose": spec.purpose.value,
        "container": spec.container_name,
        "video": spec.codec,
        "sound": spec.sound.value,
        "alpha": None if spec.alpha is Alpha.NONE else spec.alpha.value,
        "sizes": list(spec.sizes),
        "rates": list(spec.rates),
        "max_bytes": spec.most_bytes or None,
    }
