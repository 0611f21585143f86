#!/usr/bin/env bash
# A night of frames on several machines that see one folder, by GNU parallel over ssh.
# usage: over-ssh.sh FOLDER HOST...        (a folder that `hscaffold batch plan` made, under the same path everywhere)
# One worker a machine; each claims what nobody else has, so that a machine that dies only loses its turn: what it had is
# taken back by the others after a minute. Called again, it goes on with what is missing.
set -euo pipefail
folder=$(realpath "$1")
shift
hosts=$(IFS=, ; echo "$*")
parallel --will-cite --jobs 1 --sshlogin "$hosts" --retries 3 --joblog "$folder/machines.log" \
  "hscaffold batch run '$folder' # {}" ::: "$@"
hscaffold batch status "$folder"
