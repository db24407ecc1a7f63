#!/bin/bash
# Makes the generated files again and fails when they differ from those checked in.
set -euo pipefail
keep=$(mktemp -d)
trap 'rm -rf "$keep"' EXIT
files=(api/openapi.yaml internal/web/api/api.gen.go web/src/api/schema.ts docs/ink-latch-1.schema.json)
for f in "${files[@]}"; do cp "$f" "$keep/$(basename "$f")"; done
make -s generate >/dev/null
stale=0
for f in "${files[@]}"; do
  if ! cmp -s "$f" "$keep/$(basename "$f")"; then
    echo "$f is stale: run make generate and check it in" >&2
    cp "$keep/$(basename "$f")" "$f"
    stale=1
  fi
done
exit $stale
