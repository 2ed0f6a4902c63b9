#!/bin/sh
# Reads the machine it runs on and writes what it found as one .tar.gz: plain outputs, and a manifest that says what
# was missing and why. It needs nothing but a POSIX shell with tar and gzip (busybox will do), as root or not, and it
# never changes the machine: it only reads, and writes the one file.
#
#   sh fresh-boot-probe.sh [--code CODE] [FILE]    FILE defaults to fresh-boot-NAME-TIME.tar.gz in the current folder
#
# CODE is what the step of a run asks for: the bundle then proves that it was made for that step. FRESHBOOT_CODE says the
# same. With FRESHBOOT_POST set to an address that intake gave, the bundle is sent there too.
#
# docs/probe.md describes every member of the archive.
set -u
LC_ALL=C
export LC_ALL
umask 077

code=${FRESHBOOT_CODE:-}
if [ "${1:-}" = --code ]; then
  code=${2:-}
  shift 2 2> /dev/null || { echo "usage: sh fresh-boot-probe.sh [--code CODE] [FILE]" >&2; exit 2; }
fi
case $code in *[!A-Za-z0-9]*) echo "fresh-boot-probe: a code is made of letters and digits" >&2; exit 2 ;; esac

now=$(date -u +%Y-%m-%dT%H:%M:%SZ)
out=${1:-fresh-boot-$(uname -n | tr -cd 'A-Za-z0-9._-')-$(date -u +%Y%m%d-%H%M%S).tar.gz}
case $out in -*) echo "usage: sh fresh-boot-probe.sh [--code CODE] [FILE]" >&2; exit 2 ;; esac

work=$(mktemp -d "${TMPDIR:-/tmp}/fresh-boot-XXXXXX") || { echo "fresh-boot-probe: no folder to work in; set TMPDIR to one that can be written" >&2; exit 1; }
trap 'rm -rf "$work"' EXIT
trap 'exit 1' HUP INT TERM
lines=$work/lines
files=$work/files
mkdir "$files"
: > "$lines"

missing() { printf 'missing %s %s\n' "$1" "$2" >> "$lines"; }

# keep NAME: notes the size of what was written, or that nothing was.
keep() {
  if [ -s "$files/$1" ]; then
    printf 'have %s %s\n' "$1" "$(wc -c < "$files/$1" | tr -d ' ')" >> "$lines"
  else
    rm -f "$files/$1"
    missing "$1" "${2:-it was empty}"
  fi
}

# take NAME COMMAND...: the output of a command, where it exists.
take() {
  name=$1
  shift
  if ! command -v "$1" > /dev/null 2>&1; then
    missing "$name" "there is no command $1 here"
  elif "$@" > "$files/$name" 2> /dev/null; then
    keep "$name" "$1 printed nothing"
  else
    rm -f "$files/$name"
    missing "$name" "$* failed"
  fi
}

# copy NAME PATH: the content of a file.
copy() {
  if [ ! -e "$2" ]; then
    missing "$1" "there is no $2"
  elif cat "$2" > "$files/$1" 2> /dev/null; then
    keep "$1" "$2 is empty"
  else
    rm -f "$files/$1"
    missing "$1" "$2 cannot be read$root_hint"
  fi
}

word() { head -n 1 "$1" 2> /dev/null | tr -d '\r\n'; }

if [ "$(id -u)" = 0 ]; then root=yes root_hint=''; else root=no root_hint=' (root is needed)'; fi

copy cpuinfo.txt /proc/cpuinfo
copy meminfo.txt /proc/meminfo
take lscpu.json lscpu -J

if command -v lsblk > /dev/null 2>&1; then
  # All columns where this version knows how, else the usual ones, else what it prints by itself.
  lsblk -J -b -O > "$files/lsblk.json" 2> /dev/null ||
    lsblk -J -b -o NAME,TYPE,SIZE,ROTA,RM,TRAN,MODEL > "$files/lsblk.json" 2> /dev/null ||
    lsblk -J -b > "$files/lsblk.json" 2> /dev/null
  keep lsblk.json "lsblk -J -b failed"
else
  missing lsblk.json "there is no command lsblk here"
fi
for device in /sys/block/mmcblk*; do
  [ -e "$device/device/type" ] || continue
  printf '%s %s\n' "${device##*/}" "$(word "$device/device/type")"
done > "$files/mmc.txt"
keep mmc.txt "there are no cards"
# Parallel and serial ATA have ports of one name ("ata1"): the driver of the controller tells them apart, or the speed of the link.
for device in /sys/block/sd*; do
  [ -e "$device/size" ] || continue
  path=$(readlink -f "$device")
  case $path in */ata[0-9]*/host[0-9]*/*) ;; *) continue ;; esac
  port=${path##*/ata}
  port=${port%%/*}
  host=${path##*/host}
  host=${host%%/*}
  case $(word "/sys/class/scsi_host/host$host/proc_name") in
    ahci* | sata_*) echo "${device##*/} sata" ;;
    pata_*) echo "${device##*/} ata" ;;
    *) case $(word "/sys/class/ata_link/link$port/sata_spd") in *Gbps*) echo "${device##*/} sata" ;; esac ;;
  esac
done > "$files/ata.txt"
keep ata.txt "no drive hangs on an ATA port that says which it is"
if command -v smartctl > /dev/null 2>&1; then
  for device in /sys/block/*; do
    name=${device##*/}
    case $name in sd* | hd* | nvme*) ;; *) continue ;; esac
    # Its exit status tells of the drive, not of the reading: what it printed counts.
    smartctl -j -a "/dev/$name" > "$files/smart-$name.json" 2> /dev/null
    keep "smart-$name.json" "smartctl printed nothing$root_hint"
  done
else
  missing smart.json "there is no command smartctl here"
fi
copy cdrom.txt /proc/sys/dev/cdrom/info
for device in /sys/block/*; do
  [ -e "$device/size" ] || continue
  printf '%s %s %s %s %s %s\n' "${device##*/}" "$(word "$device/size")" "$(word "$device/removable")" \
    "$(word "$device/queue/rotational")" "$(readlink -f "$device" | tr ' ' '_')" "$(word "$device/device/model")"
done > "$files/block.txt"
keep block.txt "there are no drives in /sys/block"

if [ -d /sys/class/dmi/id ]; then
  for field in sys_vendor product_name product_version product_serial board_vendor board_name board_serial chassis_type bios_vendor bios_version bios_date; do
    value=$(word "/sys/class/dmi/id/$field")
    [ -z "$value" ] || printf '%s=%s\n' "$field" "$value"
  done > "$files/dmi.txt"
  keep dmi.txt "nothing in /sys/class/dmi/id can be read"
else
  missing dmi.txt "there is no /sys/class/dmi/id"
fi
copy smbios.bin /sys/firmware/dmi/tables/DMI
copy smbios-entry.bin /sys/firmware/dmi/tables/smbios_entry_point

variables=/sys/firmware/efi/efivars
secure_boot=$variables/SecureBoot-8be4df61-93ca-11d2-aa0d-00e098032b8c
if [ -d /sys/firmware/efi ]; then
  {
    echo "folder yes"
    size=$(word /sys/firmware/efi/fw_platform_size)
    [ -z "$size" ] || echo "word $size"
    # Only where other variables are to be seen does the want of this one mean anything.
    if [ ! -e "$secure_boot" ] && [ -n "$(ls "$variables" 2> /dev/null)" ]; then echo "secureBoot absent"; fi
  } > "$files/efi.txt"
  keep efi.txt
  if [ -z "$(ls "$variables" 2> /dev/null)" ]; then
    missing secure-boot.bin "the variables of the firmware are not mounted"
  else
    copy secure-boot.bin "$secure_boot"
    copy setup-mode.bin "$variables/SetupMode-8be4df61-93ca-11d2-aa0d-00e098032b8c"
  fi
else
  echo "folder no" > "$files/efi.txt"
  keep efi.txt
  missing secure-boot.bin "the system was not started by UEFI"
fi

version=$(word /sys/class/tpm/tpm0/tpm_version_major)
if [ -n "$version" ]; then
  echo "version $version" > "$files/tpm.txt"
  keep tpm.txt
else
  missing tpm.txt "the system sees no TPM: it may be absent, a bare header or switched off"
fi

# Numbers and names, and records that can be told apart; the small lspci of busybox knows none of these words.
if lspci -vmmnnk > "$files/lspci.txt" 2> /dev/null && grep -q '^Slot:' "$files/lspci.txt"; then
  keep lspci.txt
else
  rm -f "$files/lspci.txt"
  missing lspci.txt "there is no lspci here that knows -vmmnnk"
fi
for device in /sys/bus/pci/devices/*; do
  [ -e "$device/class" ] || continue
  printf '%s %s %s %s\n' "${device##*/}" "$(word "$device/class")" "$(word "$device/vendor")" "$(word "$device/device")"
done > "$files/pci.txt"
keep pci.txt "there are no devices in /sys/bus/pci"
if lsusb > "$files/lsusb.txt" 2> /dev/null && grep -q '^Bus .*ID ....:.... .' "$files/lsusb.txt"; then
  keep lsusb.txt
else
  rm -f "$files/lsusb.txt"
  missing lsusb.txt "there is no lsusb here that knows names"
fi
for device in /sys/bus/usb/devices/*; do
  [ -e "$device/idVendor" ] || continue
  printf 'Bus %03d Device %03d: ID %s:%s %s %s\n' "$(word "$device/busnum")" "$(word "$device/devnum")" \
    "$(word "$device/idVendor")" "$(word "$device/idProduct")" "$(word "$device/manufacturer")" "$(word "$device/product")"
done > "$files/usb.txt"
keep usb.txt "there are no devices in /sys/bus/usb"
# Cards that are really there; their address tells one machine from another of the same model.
for device in /sys/class/net/*; do
  [ -e "$device/device" ] || continue
  printf '%s %s\n' "${device##*/}" "$(word "$device/address")"
done > "$files/net.txt"
keep net.txt "there is no network card in /sys/class/net"
for edid in /sys/class/drm/*/edid; do
  [ -s "$edid" ] || continue
  connector=${edid%/edid}
  cat "$edid" > "$files/edid-${connector##*/}.bin" 2> /dev/null
  keep "edid-${connector##*/}.bin"
done
take lshw.json lshw -json

for supply in /sys/class/power_supply/*; do
  [ -e "$supply/uevent" ] || continue
  cat "$supply/uevent" 2> /dev/null
  echo
done > "$files/power.txt"
keep power.txt "no power supply is to be seen"

{
  echo "fresh-boot-probe 1"
  echo "taken $now"
  echo "root $root"
  [ -z "$code" ] || echo "code $code"
  cat "$lines"
} > "$files/manifest.txt"

# Beside the target first, then renamed: a name that is there is a file that is whole.
cd "$files" || exit 1
here=$OLDPWD
case $out in /*) target=$out ;; *) target=$here/$out ;; esac
# The manifest first, so that whoever reads knows what is to come.
set -- manifest.txt
for file in *; do [ "$file" = manifest.txt ] || set -- "$@" "$file"; done
if tar -cf - "$@" | gzip -c > "$target.part" && gzip -t "$target.part" 2> /dev/null && mv -f "$target.part" "$target"; then
  [ -n "${FRESHBOOT_POST:-}" ] || { echo "$target"; exit 0; }
  if command -v curl > /dev/null 2>&1; then
    answer=$(curl -sS --max-time 120 -H 'Content-Type: application/gzip' --data-binary "@$target" "$FRESHBOOT_POST" 2>&1)
  else
    # As text: the wget of busybox ends a file at its first zero byte. Without -T, which fells some of its releases.
    base64 "$target" > "$work/bundle.b64"
    answer=$(wget -q -O - --header 'Content-Type: text/plain' --post-file="$work/bundle.b64" "$FRESHBOOT_POST" 2>&1)
  fi
  case $answer in
    *'"warnings"'*) rm -f "$target"; echo "fresh-boot-probe: the bundle has arrived." ;;
    *) echo "fresh-boot-probe: the bundle did not arrive: ${answer:-no answer}. It is kept here: $target" >&2; exit 1 ;;
  esac
else
  rm -f "$target.part"
  echo "fresh-boot-probe: could not write $target; is the drive full or read-only?" >&2
  exit 1
fi
