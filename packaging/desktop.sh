#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Makes Fondale at home on the maker's desktop, or takes it away: menu entry, icon, file type, metadata. usage: desktop.sh install|uninstall PROGRAM
set -euo pipefail
here="$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)"
what="$1" program="$2"
share="${XDG_DATA_HOME:-$HOME/.local/share}"
entry="$share/applications/fondale.desktop"
declare -A places=(
  ["fondale.svg"]="$share/icons/hicolor/scalable/apps/fondale.svg"
  ["fondale-mime.xml"]="$share/mime/packages/fondale.xml"
  ["fondale.metainfo.xml"]="$share/metainfo/fondale.metainfo.xml"
)
if [ "$what" = install ]; then
  mkdir -p "$(dirname "$entry")"
  sed "s|^Exec=fondale|Exec=\"$program\"|" "$here/fondale.desktop" >"$entry"
  for file in "${!places[@]}"; do install -D -m 644 "$here/$file" "${places[$file]}"; done
  sed -i "s|@PICTURES@|file://$(dirname "$here")/docs/screenshots|" "${places[fondale.metainfo.xml]}" # there is no home page that has them
else
  rm -f "$entry" "${places[@]}"
fi
if command -v update-mime-database >/dev/null && [ -d "$share/mime" ]; then update-mime-database "$share/mime" || true; fi
if command -v update-desktop-database >/dev/null && [ -d "$share/applications" ]; then update-desktop-database -q "$share/applications" || true; fi
if [ "$what" = install ]; then echo "Fondale is in the menu, and opens .fondale files. Take it away with: ./dev uninstall"; else echo "Fondale is no longer in the menu."; fi
