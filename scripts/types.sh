#!/bin/sh
# The page's types from the service's OpenAPI document: "write" renews them, "check" fails when they are out of date.
set -eu
cd "$(dirname "$0")/.."
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
.venv/bin/python -m hardy_parcel.web.schema > "$scratch/openapi.json"
target=frontend/src/data/generated.ts
if [ "${1:-check}" = write ]; then made=$target; else made=$scratch/generated.ts; fi
(cd frontend && npx openapi-typescript "$scratch/openapi.json" -o "../$target.new" >/dev/null)
if [ "${1:-check}" = write ]; then
  mv "$target.new" "$target"
else
  mv "$target.new" "$made"
  cmp -s "$made" "$target" || { echo "$target is out of date: run 'make types'" >&2; exit 1; }
fi
