#!/bin/sh
# Looks for known weaknesses that the code can reach, in the public database of them.
set -u
said=$(mktemp)
trap 'rm -f "$said"' EXIT
go run golang.org/x/vuln/cmd/govulncheck@v1.9.0 ./... >"$said" 2>&1
code=$?
cat "$said"
if [ $code -ne 0 ] && grep -qE 'govulncheck: fetching vulnerabilities|no such host|dial tcp|403 Forbidden' "$said"; then
	echo 'Skipped: the database of weaknesses, or the tool that reads it, is out of reach from here.'
	exit 0
fi
exit $code
