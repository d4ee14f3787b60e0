#!/usr/bin/env bash
# Builds a minimal Debian root with only Python in it, clones the committed tree into it, runs the README's two commands there, and
# says how they ended. Needs root and debootstrap. usage: ./dev fresh [SUITE [FOLDER]]
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."

suite="${1:-bookworm}"
root="${2:-$(mktemp -d "${TMPDIR:-/var/tmp}/fondale-fresh.XXXXXX")}"
say() { printf '%s\n' "$*" >&2; }
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

say "Building a minimal $suite in $root"
debootstrap --variant=minbase --include=python3,ca-certificates "$suite" "$root" >"$root.log" 2>&1 || { tail -n 5 "$root.log" >&2; exit 1; }
rm -f "$root.log"
cp /etc/resolv.conf /etc/hosts "$root/etc/"
# Where the network is reached through a certificate of its own, it holds in there too.
for certificates in "${SSL_CERT_FILE:-}" "${PIP_CERT:-}"; do
  [ -n "$certificates" ] && mkdir -p "$root$(dirname "$certificates")" && cp "$certificates" "$root$certificates"
done
git clone -q --no-hardlinks . "$root/fondale"
mkdir -p "$root/dev/shm"
mount -t proc proc "$root/proc"
mount --bind /dev "$root/dev"
mount -t tmpfs tmpfs "$root/dev/shm"

inside() {
  chroot "$root" /usr/bin/env -i HOME=/root PATH=/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8 \
    ${http_proxy:+http_proxy="$http_proxy"} ${https_proxy:+https_proxy="$https_proxy"} \
    ${SSL_CERT_FILE:+SSL_CERT_FILE="$SSL_CERT_FILE"} ${PIP_CERT:+PIP_CERT="$PIP_CERT"} ${PIP_DEFAULT_TIMEOUT:+PIP_DEFAULT_TIMEOUT="$PIP_DEFAULT_TIMEOUT"} \
    bash -c "cd /fondale && $1"
}

ended=0
for command in "./dev demo" "./dev test"; do
  say "--- $command"
  start=$SECONDS
  inside "$command" && how="ended well" || { how="failed with exit $?"; ended=1; }
  if [ "$command" = "./dev demo" ]; then # the tour fails for a blank picture; that there are any is looked at here
    pictures="$(find "$root/fondale/out/demo" -name '*.png' -size +8k 2>/dev/null | wc -l)"
    [ "$pictures" -ge 18 ] || { how="wrote $pictures pictures worth looking at, of 18"; ended=1; }
  fi
  say "--- $command on a minimal $suite: $how after $((SECONDS - start)) s"
done
exit $ended
