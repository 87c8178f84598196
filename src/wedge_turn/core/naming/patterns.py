"""Names of delivered files from a pattern, such as `{job}_{n:03}_{name}`.

{name}     the name in the worksheet
{base}     the name without the suffix its turn added
{suffix}   the suffix its turn added, such as _L; nothing where the result has a name of its own
{turn}     the kind of its turn; nothing for a source
{channel}  the name of its channel, by the file it comes from or by its suffix; nothing for several channels
{n}        its number in the delivery; {n:03} with three digits
{job}      the job
{date}     the day of the delivery, 2026-11-26
{rate}     the sample rate in kHz
{depth}    the bit depth
"""

import re
from dataclasses import asdict, dataclass
from string import Formatter
from typing import Annotated, Final, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, StringConstraints, ValidationError

from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.naming.names import is_plain_text

PLAIN: Final = "{name}"
FIELDS: Final = ("name", "base", "suffix", "turn", "channel", "n", "job", "date", "rate", "depth")
_NUMBER: Final = re.compile(r"0?[1-9]")
_SPACES: Final = {"keep": " ", "underscore": "_", "hyphen": "-", "none": ""}


@dataclass(frozen=True)
class Facts:
    """What a pattern can say of a file."""

    name: str
    suffix: str
    turn: str
    channel: str
    n: int
    job: str
    date: str
    rate: str
    depth: str

    @property
    def base(self) -> str:
        return self.name.removesuffix(self.suffix)


def _is_pattern(text: str) -> str:
    if not text.strip() or not is_plain_text(text):
        raise ValueError("a pattern holds text, without control characters")
    try:
        parts = list(Formatter().parse(text))
    except ValueError:
        raise ValueError("the pattern has an unclosed brace: type {{ or }} for a literal one") from None
    for _, field, spec, conversion in parts:
        if field is None:
            continue
        if field not in FIELDS or conversion:
            raise ValueError(f"there is no {{{field}}}; there are {', '.join(f'{{{known}}}' for known in FIELDS)}")
        if spec and (field != "n" or not _NUMBER.fullmatch(spec)):
            raise ValueError(f"{{{field}:{spec}}} can't be written: only {{n}} has digits, as in {{n:03}}")
    return text


def needs_channel(pattern: str) -> bool:
    """Whether a pattern names channels, which has to be looked for in the files."""
    return any(field == "channel" for _, field, _, _ in Formatter().parse(pattern))


class Naming(BaseModel):
    """A pattern, and what becomes of the case of its letters and of its spaces."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    pattern: Annotated[str, StringConstraints(max_length=200), AfterValidator(_is_pattern)] = PLAIN
    case: Literal["keep", "lower", "upper"] = "keep"
    spaces: Literal["keep", "underscore", "hyphen", "none"] = "keep"

    def name(self, facts: Facts) -> str:
        """The name of a file, without its extension and not yet made safe."""
        text = self.pattern.format(**asdict(facts), base=facts.base)
        if self.case != "keep":
            text = text.lower() if self.case == "lower" else text.upper()
        return re.sub(r"\s", _SPACES[self.spaces], text) if self.spaces != "keep" else text


def parse_naming(pattern: str) -> Naming:
    """A pattern as it is typed. Raises BadRequestError that says what is wrong with it."""
    try:
        return Naming(pattern=pattern)
    except ValidationError as error:
        message = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        raise BadRequestError(f"The name pattern “{pattern}” can't be used: {message}") from error
