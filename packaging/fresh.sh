#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Builds a minimal root of a distribution with only Python in it, clones the committed tree into it, runs the README's two commands there, as
# root or as a plain user who installs what is asked for, and says how they ended. Needs root and debootstrap.
# usage: ./dev fresh [--user] [--only COMMAND] [SUITE [FOLDER]] | --all | --archive FILE SUITE
# --archive tries what ./dev package made, in a root without Python.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."

say() { printf '%s\n' "$*" >&2; }
user="" only=""
if [ "${1:-}" = --all ]; then
  ended=0
  for suite in bookworm trixie noble; do
    for who in "" --user; do packaging/fresh.sh $who "$suite" || ended=1; done
  done
  ./dev package
  for suite in bookworm noble; do packaging/fresh.sh --archive dist/fondale-*.tar.gz "$suite" || ended=1; done
  exit $ended
fi
archive="" python=python3,
[ "${1:-}" = --archive ] && { archive="$(readlink -f "$2")"; python="" user=maker; shift 2; }
[ "${1:-}" = --user ] && { user=maker; shift; }
[ "${1:-}" = --only ] && { only="$2"; shift 2; }
suite="${1:-bookworm}"
root="${2:-$(mktemp -d "${TMPDIR:-/var/tmp}/fondale-fresh.XXXXXX")}"
[ "$(id -u)" = 0 ] || { say "A minimal root is built by root: sudo ./dev fresh"; exit 2; }
if ! command -v debootstrap >/dev/null; then
  say "debootstrap is missing here: apt install debootstrap"
  [ -t 0 ] || exit 2
  read -r -p "Install it now? [y/N] " answer
  case "$answer" in [yY]*) apt-get update -qq && apt-get install -y -qq --no-install-recommends debootstrap >/dev/null ;; *) exit 2 ;; esac
fi

unmount() { for place in dev/shm dev proc; do umount -l "$root/$place" 2>/dev/null || true; done; }
leave() { unmount; [ -n "${KEEP:-}" ] || rm -rf --one-file-system "$root"; }
trap leave EXIT

chmod 755 "$root" # mktemp keeps it from all others
say "Building a minimal $suite in $root"
kind=("--include=${python}ca-certificates" "$suite" "$root")
case "$suite" in
  noble) # a root of Ubuntu is built as all of them are; where its keys are not here, they are not asked for
    [ -e /usr/share/keyrings/ubuntu-archive-keyring.gpg ] || kind=(--no-check-gpg "${kind[@]}")
    kind=(--components=main,universe "${kind[@]}" http://archive.ubuntu.com/ubuntu /usr/share/debootstrap/scripts/gutsy) ;;
  *) [ -e "/usr/share/debootstrap/scripts/$suite" ] || kind+=(http://deb.debian.org/debian /usr/share/debootstrap/scripts/sid) ;;
esac
debootstrap --variant=minbase "${kind[@]}" >"$root.log" 2>&1 || { tail -n 5 "$root.log" >&2; exit 1; }
rm -f "$root.log"
cp /etc/resolv.conf /etc/hosts "$root/etc/"
# Where the network is reached through a certificate of its own, it holds in there too.
for certificates in "${SSL_CERT_FILE:-}" "${PIP_CERT:-}"; do
  [ -n "$certificates" ] && mkdir -p "$root$(dirname "$certificates")" && cp "$certificates" "$root$certificates"
done
if [ -n "$archive" ]; then mkdir "$root/fondale"; tar -C "$root/fondale" --strip-components=1 -xzf "$archive"
else git clone -q --no-hardlinks . "$root/fondale"; fi
mkdir -p "$root/dev/shm"
mount -t proc proc "$root/proc"
mount --bind /dev "$root/dev"
mount -t tmpfs tmpfs "$root/dev/shm"
if [ -n "$user" ]; then chroot "$root" useradd -m "$user"; chroot "$root" chown -R "$user" /fondale; fi

inside() { # as root, or as the one who is named first
  local as=() home=/root
  [ "$1" = root ] || { as=(setpriv "--reuid=$1" "--regid=$1" --init-groups); home="/home/$1"; }
  chroot "$root" /usr/bin/env -i "${as[@]}" /usr/bin/env -i HOME="$home" PATH=/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8 \
    ${http_proxy:+http_proxy="$http_proxy"} ${https_proxy:+https_proxy="$https_proxy"} \
    ${SSL_CERT_FILE:+SSL_CERT_FILE="$SSL_CERT_FILE"} ${PIP_CERT:+PIP_CERT="$PIP_CERT"} ${PIP_DEFAULT_TIMEOUT:+PIP_DEFAULT_TIMEOUT="$PIP_DEFAULT_TIMEOUT"} \
    bash -c "cd /fondale && $2"
}

ended=0
start="./dev demo" commands=("./dev demo" "./dev test")
[ -n "$archive" ] && start=./fondale commands=("./fondale --version" "./fondale scale 54 mm" "QT_QPA_PLATFORM=offscreen ./fondale demo --tour out/demo")
if [ -n "$user" ]; then # what is missing is said in one line before anything is done, and that line is enough
  inside root "apt-get update -qq" >/dev/null 2>&1 || true
  said="$(inside "$user" "$start" 2>&1)" && how=0 || how=$?
  say "--- $start as $user, with nothing there: exit $how: $said"
  [ "$how" = 2 ] && [ "$(wc -l <<<"$said")" = 1 ] && [ ! -e "$root/fondale/.venv" ] || ended=1
  inside root "DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends ${said##*apt install}" >/dev/null 2>&1 || { say "--- that line does not install"; exit 1; }
fi
for command in "${commands[@]}"; do
  [ -z "$only" ] || [ "$only" = "$command" ] || continue
  say "--- $command"
  start=$SECONDS
  inside "${user:-root}" "$command" && how="ended well" || { how="failed with exit $?"; ended=1; }
  if [[ "$command" == *demo* ]]; then # the tour fails for a blank picture; that there are any is looked at here
    pictures="$(find "$root/fondale/out/demo" -name '*.png' -size +8k 2>/dev/null | wc -l)"
    [ "$pictures" -ge 18 ] || { how="wrote $pictures pictures worth looking at, of 18"; ended=1; }
  fi
  say "--- $command on a minimal $suite as ${user:-root}: $how after $((SECONDS - start)) s"
done
exit $ended
