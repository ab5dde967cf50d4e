#!/usr/bin/env bash
# Makes every table of docs/method.md anew, each with its seeds, into a folder (target/tables): one file a table.
# Hours on two cores at the full numbers; `scripts/tables.sh 10` takes a tenth of the cases. The optimum for decays
# needs Python with numpy and scipy and is left out where they are not.
set -euo pipefail
cd "$(dirname "$0")/.."
out=target/tables
less=${1:-1}
mkdir -p "$out"
of() { echo $(($1 / less)); }
run() {
    local name=$1 crate=$2 example=$3
    shift 3
    echo "$name"
    cargo run -q --release -p "$crate" --example "$example" -- "$@" >"$out/$name.md"
}
run procedures ruhe-core procedures "$(of 400)" 910000
run watched ruhe-core watched "$(of 100)" 963000
run otherwise ruhe-core otherwise "$(of 200)" 70001
run foretold ruhe-core foretold "$(of 40)" 950000
run thinned ruhe-core thinned "$(of 1000)" 1100000
run decays ruhe-core decays "$(of 2000)" 760000
run rises ruhe-core rises "$(of 2000)" 50000
for prior in leaky damp rough_gauge; do
    run "decays-$prior" ruhe-core decays "$(of 1000)" 710000 - "sim/priors/$prior.json"
done
for trouble in slip stuck step late; do
    run "decays-$trouble" ruhe-core decays "$(of 500)" 720000 - - "$trouble"
done
run apart ruhe-core apart "$(of 2000)" 730000
run pulls ruhe-core pulls "$(of 2000)" 300000
run next_steps ruhe-job next_steps "$(of 1000)" 500000
run drills ruhe-drill verdicts "$(of 200)"
run optimum-cases ruhe-core decays "$(of 2000)" 770000 "$out/decays.jsonl"
if python3 -c "import numpy, scipy" 2>/dev/null; then
    echo optimum
    python3 reference/decay_optimum.py "$out/decays.jsonl" :"$(of 600)" >"$out/optimum.md"
fi
