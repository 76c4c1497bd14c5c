#!/bin/sh
# Holds the OpenAPI document against the running program: every operation is asked with what the document allows and with
# what it does not, and each answer must be one that the document tells. Needs schemathesis (PyPI) on the path; no part of
# the tests. What the document allows and a rule of the trade refuses (a vessel of 0 L, a date that is none) is answered
# with 422 and a word, and is no fault: that one check is left out, and so is the stream of instruments, which does not end.
# Usage: xtask/api-check.sh [EXAMPLES]
set -eu
cd "$(dirname "$0")/.."
folder=$(mktemp -d)
cargo build -q -p iron-twin
target/debug/iron-twin demo --data "$folder/farm.sqlite" --port 0 > "$folder/said" &
program=$!
trap 'kill "$program"; rm -rf "$folder"' EXIT
until grep -q http "$folder/said"; do sleep 0.2; done
address=$(sed -n 's/.*\(http[^ ]*\).*/\1/p' "$folder/said" | head -1)
# Ids of trials in the demo, so that operations meet something that is there.
trial=$(curl -s "$address/api/v1/trials" | sed -n 's/.*"id":"\([^"]*\)".*/\1/p' | head -1)
cat > "$folder/schemathesis.toml" <<TOML
[parameters]
"path.id" = "$trial"
TOML
schemathesis --config-file "$folder/schemathesis.toml" run "$address/api/v1/openapi.json" --url "$address" \
  --max-examples "${1:-40}" --workers 1 --exclude-checks positive_data_acceptance --exclude-path /api/v1/instruments/live
