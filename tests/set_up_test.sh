#!/usr/bin/env bash
# tools/set-up with a stubbed package manager: what it starts, waits for and says.
set -euo pipefail
set_up=$1
work=$(mktemp -d) && trap 'rm -rf "$work"' EXIT
fail() { echo "FAILED: $1" >&2; exit 1; }
printf 'here   a library\ngone   another one\n' > "$work/list"
printf 'here   a library\n' > "$work/all"

stub() { printf '#!/bin/bash\n%s\n' "$2" > "$work/bin/$1"; chmod +x "$work/bin/$1"; }
mkdir "$work/bin"
stub dpkg-query '[[ "${@: -1}" == here ]] && echo "install ok installed"; exit 0'
stub apt-get 'echo "$@" >> "$CALLS"; [[ "$1" != update ]] || "$(dirname "$0")/update"'
stub sudo 'exec "$@"'
stub sleep 'exit 0'
stub update 'exit 0'
export PATH="$work/bin:$PATH" CALLS="$work/calls"

: > "$CALLS"
"$set_up" "$work/all" >/dev/null
[[ ! -s "$CALLS" ]] || fail "with all there it starts the package manager"

"$set_up" "$work/list" >/dev/null
grep -q 'install .*gone' "$CALLS" || fail "what is missing is not installed"
! grep -q 'install .* here' "$CALLS" || fail "what is there is installed again"

# A lock that is held for a while, then freed.
: > "$CALLS"; rm -f "$work/tries"
stub update 'echo x >> '"$work/tries"'; [[ $(wc -l < '"$work/tries"') -ge 4 ]] || { echo "E: Could not get lock /var/lib/apt/lists/lock"; exit 100; }'
"$set_up" "$work/list" | grep -q 'waiting for it' || fail "it does not say that it waits"
[[ $(grep -c '^update' "$CALLS") -eq 4 ]] || fail "it does not wait for the lock"
grep -q 'DPkg::Lock::Timeout=60' "$CALLS" || fail "dpkg's lock is not waited for a minute"

# One that is held for ever, and a network that is gone.
for words in "E: Could not get lock /var/lib/apt/lists/lock" "E: no network"; do
  : > "$CALLS"
  stub update "echo '$words'; exit 100"
  said=$("$set_up" "$work/list" 2>&1) && fail "it goes on without lists"
  [[ "$said" == *"$words"*"try again"* ]] || fail "it does not say why: $said"
  ! grep -q '^install' "$CALLS" || fail "it installs without lists"
done
echo "1 passed, 0 failed"
