"""What the core and the file formats raise when an input cannot be used."""

from dataclasses import dataclass

from tempermark.core.phrases import Text, metric


@dataclass(frozen=True)
class Problem:
    """One thing wrong: where (a key path, or None), and what would be right."""

    path: str | None
    message: Text
    code: str = "bad_value"


class InputError(ValueError):
    """All that is wrong with one input, the first problem leading."""

    def __init__(self, problems: list[Problem]) -> None:
        self.problems = problems
        super().__init__("; ".join(metric(problem.message) for problem in problems))

    @classmethod
    def single(cls, path: str | None, message: Text, code: str = "bad_value") -> "InputError":
        """An error with one problem."""
        return cls([Problem(path, message, code)])

    def as_document(self) -> dict[str, object]:
        """The JSON error object of formats/commands.md; further problems in `also`."""
        first, *others = self.problems
        error: dict[str, object] = {
            "code": first.code,
            "path": first.path,
            "message": metric(first.message),
        }
        if others:
            error["also"] = [{"path": p.path, "message": metric(p.message)} for p in others[:20]]
        return {"error": error}
