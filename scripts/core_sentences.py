#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""What the core can say, as a source that Qt's lupdate understands: every literal in src/core that has words in
it, in the context "Core". Some are never said; that costs a translator a glance, a missing one would stay English.
"""
import pathlib
import re
import sys

LITERAL = r'"(?:[^"\\\n]|\\.)*"'
KEEP_LITERALS = re.compile(LITERAL + r"|//[^\n]*|/\*.*?\*/", re.S)
NO_SENTENCE = re.compile(r'#include[^\n]*|static_assert\([^;]*;|throw "[^"]*"|R"\(.*?\)"', re.S)
# A part of one word is only known by who says it.
SAID = re.compile(r"\b(?:Sentence|Error|say|saying|broken|damaged)\s*\(\s*((?:" + LITERAL + r"\s*)+)")
ANY = re.compile(r"((?:" + LITERAL + r"\s*)+)")


def text_of(literals: str) -> str:
    return "".join(part[1:-1] for part in re.findall(LITERAL, literals))


def sentences(source: str) -> set[str]:
    source = KEEP_LITERALS.sub(lambda m: m.group(0) if m.group(0).startswith('"') else " ", source)
    source = NO_SENTENCE.sub(" ", source)
    found = {text_of(match.group(1)) for match in SAID.finditer(source)}
    for match in ANY.finditer(source):
        text = text_of(match.group(1))
        if re.search(r"[a-z] [%A-Za-z]|%[1n] [a-z]|%1, %2", text):
            found.add(text)
    return {text for text in found if text == "%1, %2" or re.search("[a-z]", re.sub("%[1-9n]", "", text))}


def main() -> None:
    found: set[str] = set()
    for root in sys.argv[1:]:
        for path in sorted(pathlib.Path(root).rglob("*.[ch]*")):
            found |= sentences(path.read_text(encoding="utf-8"))
    for text in sorted(found):
        print(f'QT_TRANSLATE_N_NOOP("Core", "{text}");' if "%n" in text else f'QT_TRANSLATE_NOOP("Core", "{text}");')


if __name__ == "__main__":
    main()
