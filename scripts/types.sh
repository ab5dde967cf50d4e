#!/usr/bin/env bash
# Makes the API description and the browser's types from the code. Run it after a change to job/src/tell, job/src/act or server/src/routes.
set -euo pipefail
cd "$(dirname "$0")/.."
cargo run -q -p ruhe-server -- openapi > web/openapi.json.new
mv web/openapi.json.new web/openapi.json
(cd web && node node_modules/openapi-typescript/bin/cli.js openapi.json --default-non-nullable false -o src/api/schema.gen.ts)
