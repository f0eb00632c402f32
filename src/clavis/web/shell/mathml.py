"""Equations of the core, written in one line, set as MathML: fractions, subscripts, words between them.

The line's own rules: a letter with ``_`` has a subscript; what stands side by side is multiplied; a slash with spaces
divides the whole product before it, one without spaces what touches it; words of several small letters are words.
"""

import re
from dataclasses import dataclass
from functools import lru_cache
from html import escape

_TOKEN = re.compile(
    r"(?P<space>\s+)|(?P<number>\d+(?:[.,]\d+)?)|(?P<name>d?[^\W\d_](?:_[^\W_]+)+|[^\W\d_]+(?:_[^\W_]+)*)|(?P<sign>.)"
)
_FUNCTIONS = ("min", "max", "cos", "sin", "exp", "ln", "sqrt")
_OPEN, _CLOSE = "(", ")"
_PRODUCT_ENDS = frozenset("=+−-±≤≥<>,;≈→")


@dataclass(frozen=True)
class _Token:
    kind: str
    text: str


def _tokens(line: str) -> list[_Token]:
    found = [_Token(m.lastgroup or "", m.group()) for m in _TOKEN.finditer(line)]
    out: list[_Token] = []
    for token in found:
        function = next((f for f in _FUNCTIONS if token.kind == "name" and token.text.startswith(f)), "")
        rest = token.text[len(function) :]
        if function and rest and len(rest) == 1:  # cosθ
            out += [_Token("function", function), _Token("name", rest)]
        elif function and not rest:
            out.append(_Token("function", function))
        else:
            out.append(token)
    return out


_SMALL_WORDS = frozenset({"of", "by", "in", "at", "to", "an"})


def _is_word(text: str) -> bool:
    return text in _SMALL_WORDS or ("_" not in text and len(text) > 2 and text.islower() and text.isascii())


def _letter(text: str) -> str:
    if len(text) == 2 and text[0] == "d":  # a differential: dt
        return f"<mrow><mi>d</mi><mi>{escape(text[1])}</mi></mrow>"
    return f"<mi>{escape(text)}</mi>"


def _name(text: str) -> str:
    base, _, below = text.partition("_")
    if not below:
        return f"<mtext>&#160;{escape(base)}&#160;</mtext>" if _is_word(base) else _letter(base)
    inner = f"<mtext>{escape(below)}</mtext>" if len(below) > 2 else f"<mi>{escape(below)}</mi>"
    return f"<msub>{_letter(base)}{inner}</msub>"


class _Reader:
    def __init__(self, tokens: list[_Token]) -> None:
        self.tokens, self.at = tokens, 0

    def row(self) -> str:
        """Everything up to the bracket that closes it, or the end."""
        done: list[str] = []
        product: list[str] = []
        while self.at < len(self.tokens) and self.tokens[self.at].text != _CLOSE:
            token = self.tokens[self.at]
            if token.kind == "space":
                self.at += 1
            elif token.text == "/":
                self._divide(product)
            elif token.kind == "sign" and token.text != _OPEN:
                self.at += 1
                done += [*product, f"<mo>{escape(token.text)}</mo>"] if token.text in _PRODUCT_ENDS else []
                if token.text in _PRODUCT_ENDS:
                    product = []
                else:
                    product.append(f"<mo>{escape(token.text)}</mo>")
            else:
                product.append(self._factor(keep_brackets=True))
        return "".join([*done, *product])

    def _divide(self, product: list[str]) -> None:
        wide = self.at > 0 and self.tokens[self.at - 1].kind == "space"
        self.at += 1
        while self.at < len(self.tokens) and self.tokens[self.at].kind == "space":
            self.at += 1
        below = self._factor(keep_brackets=False)
        taken = product if wide else product[-1:]
        above = "".join(taken) or "<mrow></mrow>"
        if len(taken) == 1 and above.startswith("<mrow><mo>(") and above.endswith("<mo>)</mo></mrow>"):
            above = above.removeprefix("<mrow><mo>(</mo>").removesuffix("<mo>)</mo></mrow>")
        del product[len(product) - len(taken) :]
        product.append(f"<mfrac><mrow>{above}</mrow><mrow>{below}</mrow></mfrac>")

    def _factor(self, *, keep_brackets: bool) -> str:
        if self.at >= len(self.tokens):
            return ""
        token = self.tokens[self.at]
        self.at += 1
        if token.text == _OPEN:
            inside = self.row()
            self.at += 1
            return f"<mrow><mo>(</mo>{inside}<mo>)</mo></mrow>" if keep_brackets else inside
        if token.kind == "number":
            return f"<mn>{token.text}</mn>"
        if token.kind == "function":
            return f"<mi>{token.text}</mi>"
        return _name(token.text) if token.kind == "name" else f"<mo>{escape(token.text)}</mo>"


_BETWEEN_WORDS = "&#160;</mtext><mtext>&#160;"


@lru_cache(maxsize=512)
def mathml(line: str, display: str = "block") -> str:
    """An equation as MathML, on a line of its own or ``inline``; the line itself is its alternative text.

    >>> mathml("p = F/A").partition(">")[2]
    '<mi>p</mi><mo>=</mo><mfrac><mrow><mi>F</mi></mrow><mrow><mi>A</mi></mrow></mfrac></math>'
    """
    reader = _Reader(_tokens(line))
    inside = reader.row()
    while reader.at < len(reader.tokens):  # a bracket that nothing opened
        inside += f"<mo>{escape(reader.tokens[reader.at].text)}</mo>"
        reader.at += 1
        inside += reader.row()
    inside = inside.replace(_BETWEEN_WORDS, " ")
    return f'<math display="{display}" alttext="{escape(line)}">{inside}</math>'
