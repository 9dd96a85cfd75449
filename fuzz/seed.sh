#!/usr/bin/env bash
# Seeds the corpus with every session file there is in the tree.
set -euo pipefail
cd "$(dirname "$0")/.."
mkdir -p fuzz/corpus/session_file
cp crates/pukka/demo/*.json fuzz/corpus/session_file/
cp crates/pukka-core/tests/crashers/* fuzz/corpus/session_file/ 2>/dev/null || true
awk '/^```json$/{on=1;next} /^```$/{on=0} on' docs/session-file.md > fuzz/corpus/session_file/documented.json
