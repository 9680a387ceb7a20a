#!/bin/sh
# SPDX-License-Identifier: GPL-3.0-or-later
# Brings a translation up to date with the sources, or begins one: scripts/update_translations.sh de [FOLDER]
# writes FOLDER/yewdrift_de.ts; without FOLDER, into translations/. See docs/translating.md.
set -eu
[ $# -ge 1 ] || { echo "update_translations.sh: say which language, for example de" >&2; exit 2; }
[ -x /usr/lib/qt6/bin/lupdate ] || { echo "update_translations.sh: install qt6-l10n-tools" >&2; exit 1; }
folder=$(realpath -m "${2:-$(dirname "$0")/../translations}")
file="$folder/yewdrift_$1.ts"
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$folder"
python3 scripts/core_sentences.py src/core > "$work/core_sentences.cpp"
/usr/lib/qt6/bin/lupdate -silent -no-obsolete -locations none -target-language "$1" -I src \
  src/app "$work/core_sentences.cpp" -ts "$file"
echo "$file: $(grep -c '<message' "$file") sentences, $(grep -c 'type="unfinished"' "$file" || true) to do"
