# shellcheck shell=dash
# The installer of the demo's own small systems. It asks, or reads the answer file of its medium; divides the drive by the
# script that it is given; makes file systems, copies, puts the loader where the medium says, and restarts. Each question is
# one line that begins with "?" and its name; the answer is one line. docs/demo-installers.md tells all of them.

# shellcheck source=demo/live/common.sh disable=SC1091 # it lies beside this in the archive
. /common.sh
exec > /dev/tty0 2>&1

find_medium
[ -n "$medium" ] || stop "the medium that it was started from is not there any more."
title=$(value title)
build=$(value build)
say "$title $build: setup"

# answer KEY: what the answer file says of it; fails where it says nothing.
answer() {
  [ -e /medium/setup/answers.conf ] || return 1
  text=$(sed -n "s/^answer $1 \"\(.*\)\"$/\1/p" /medium/setup/answers.conf | head -n 1)
  [ -n "$text" ] && [ "$text" != ask ] && printf '%s' "$text"
}
# ask KEY WORDS DEFAULT: from the answer file, or from whoever stands beside it.
ask() {
  if said=$(answer "$1"); then
    say "  $1: $said (answer file)"
    return
  fi
  say "? $1: $2"
  IFS= read -r said < $line
  said=$(printf '%s' "$said" | tr -d '\r')
  [ -n "$said" ] || said=$3
  say "  $1: $said"
}

ask region "Which region is this?" Anvers
region=$said
ask keyboard "Which keyboard?" us
keyboard=$said

# The drives that somebody may have meant. What it was started from is none of them.
number=0
for block in /sys/block/sd? /sys/block/nvme?n1 /sys/block/vd?; do
  [ -e "$block/size" ] || continue
  device=/dev/${block##*/}
  case $medium in "$device"*) continue ;; esac
  [ "$(cat "$block/removable")" = 0 ] || continue
  bytes=$(($(cat "$block/size") * 512))
  [ $bytes -gt 0 ] || continue
  number=$((number + 1))
  serial=$(blkid -p -o value -s SERIAL "$device" 2> /dev/null)
  [ -n "$serial" ] || serial=$(dd if="$block/device/vpd_pg80" bs=1 skip=4 2> /dev/null | tr -d ' \0')
  say "  drive $number: ${device#/dev/}, $bytes bytes, serial ${serial:-unknown}"
  eval "drive_$number=$device"
done
[ $number -gt 0 ] || stop "no drive is seen: there is no driver for it, or none is plugged in."
say "? drive: Which of them gets $title? All that is on it is lost."
IFS= read -r said < $line
said=$(printf '%s' "$said" | tr -cd '0-9')
eval "drive=\${drive_$said:-}"
[ -n "$drive" ] || stop "there is no drive $said."

say "? layout: the script that divides it, and a line with a dot; or \"whole\"."
: > /tmp/layout.sh
while IFS= read -r text < $line; do
  text=$(printf '%s' "$text" | tr -d '\r')
  case $text in . | whole) break ;; esac
  printf '%s\n' "$text" >> /tmp/layout.sh
  # A line is asked for when the one before it is kept: a serial line forgets what nobody waits for.
  say "+"
done
if [ "$text" = whole ]; then
  # shellcheck disable=SC2016 # the script expands it when it runs
  if [ -d /sys/firmware/efi ]; then
    printf 'set -e\nprintf "label: gpt\\nsize=512MiB, type=c12a7328-f81f-11d2-ba4b-00a0c93ec93b, name=efi\\ntype=0fc63daf-8483-4772-8e79-3d69d8477de4, name=system\\n" | sfdisk -q --wipe always "$1"\nmkfs.vfat -F 32 -n EFI "$1"1\nmkfs.ext4 -q -L system "$1"2\n' > /tmp/layout.sh
  else
    # 128 MiB at the end stay free: a change to UEFI later on needs a place for the loader and for the second table.
    printf 'set -e\nprintf "label: dos\\nstart=2048, size=%%s, type=83, bootable\\n" $(($(cat "/sys/block/${1##*/}/size") - 264192)) | sfdisk -q --wipe always "$1"\nmkfs.ext4 -q -L system "$1"1\n' > /tmp/layout.sh
  fi
fi
say "Dividing ${drive#/dev/} …"
if ! sh /tmp/layout.sh "$drive" > /tmp/layout.log 2>&1; then
  while IFS= read -r text; do say "  $text"; done < /tmp/layout.log
  stop "the drive could not be divided."
fi
sync
part() { case $drive in *[0-9]) echo "${drive}p$1" ;; *) echo "$drive$1" ;; esac; }

# What was made, by its label: the script named them.
labelled() { blkid -t LABEL="$1" -o device 2> /dev/null | grep "^$drive" | head -n 1; }
waited=0
while [ -z "$(labelled system)" ] && [ $waited -lt 20 ]; do sleep 0.2; waited=$((waited + 1)); done
system=$(labelled system)
[ -n "$system" ] || stop "there is no file system called system on it."
boot=$(labelled boot)
efi=$(labelled EFI)
swap=$(labelled swap)
home=$(labelled home)
mount -t ext4 "$system" /target || stop "its system partition cannot be mounted."
mkdir -p /target/boot
[ -z "$boot" ] || mount -t ext4 "$boot" /target/boot

least=$(value leastMiB)
free=$(df -m /target | awk 'NR == 2 { print $4 }')
[ -z "$least" ] || [ "$free" -ge "$least" ] || stop "copying fails: it takes $least MiB, and $free MiB are free."

say "Copying …"
mkdir -p /target/bin /target/sbin /target/proc /target/sys /target/dev /target/tmp /target/etc /target/home /target/root
copy_system || stop "copying fails: the drive took no more."
if ! cp /medium/live/vmlinuz /medium/live/live.gz /target/boot/; then
  stop "copying fails: a file of the medium cannot be read."
fi
sync
(cd /target/boot && sha256sum -c /medium/live/SHA256SUMS > /dev/null 2>&1) || stop "copying fails: what came from the medium is not what its maker wrote."
{
  echo "title=\"$title\""
  echo "build=\"$build\""
  echo "id=\"$(value system)\""
  echo "region=\"$region\""
  echo "keyboard=\"$keyboard\""
} > /target/etc/system.conf
[ -z "$swap" ] || blkid -s UUID -o value "$swap" > /target/etc/swap
[ -z "$home" ] || blkid -s UUID -o value "$home" > /target/etc/home
cp /medium/setup/answers.conf /target/etc/answers.conf 2> /dev/null
# The medium's own second patches, such as a driver that its maker leaves out.
cp -r /medium/setup/second /target/etc/second 2> /dev/null

mkdir -p /target/boot/uefi
cp /medium/live/drive/BOOT*.EFI /target/boot/uefi/
write_loader /target "$(blkid -s UUID -o value "$system")" ''
[ -z "$boot" ] || { mkdir -p /target/boot/boot && cp -r /target/boot/loader /target/boot/boot/; }

if [ "$(value loader)" = medium ]; then
  say "The loader stays on the medium."
elif [ -d /sys/firmware/efi ]; then
  [ -n "$efi" ] || stop "there is no EFI system partition for the loader."
  mkdir -p /tmp/efi
  mount -t vfat "$efi" /tmp/efi || stop "the EFI system partition cannot be mounted."
  mkdir -p /tmp/efi/EFI/BOOT
  cp /medium/live/drive/BOOT*.EFI /tmp/efi/EFI/BOOT/ || stop "the loader does not fit into the EFI system partition."
  umount /tmp/efi
else
  # The boot sector keeps its table; the loader lies behind it, or in a partition of its own where the table is a GPT.
  dd if=/medium/live/drive/boot.img of="$drive" bs=440 count=1 conv=notrunc 2> /dev/null
  sectors=$((($(wc -c < /medium/live/drive/core.img) + 511) / 512))
  at=$(sfdisk -l -o Start,Type-UUID "$drive" 2> /dev/null | awk 'toupper($2) == "21686148-6449-6E6F-744E-656564454649" { print $1 }')
  if [ -z "$at" ]; then
    sfdisk -d "$drive" 2> /dev/null | grep -q '^label: gpt' && stop "a GPT without a BIOS boot partition has no place for the loader."
    at=1
    first=$(sfdisk -l -o Start "$drive" 2> /dev/null | awk '$1 ~ /^[0-9]+$/' | sort -n | head -n 1)
    [ "$sectors" -lt "${first:-63}" ] || stop "the loader does not fit before the first partition."
  fi
  dd if=/medium/live/drive/core.img of="$drive" bs=512 seek="$at" conv=notrunc 2> /dev/null
  # Little-endian: where the loader begins, and where its second sector lies.
  # shellcheck disable=SC2059 # the format is made of octal escapes
  little() { printf "\\$(printf %03o $(($1 & 255)))\\$(printf %03o $((($1 >> 8) & 255)))\\$(printf %03o $((($1 >> 16) & 255)))\\$(printf %03o $((($1 >> 24) & 255)))"; }
  little "$at" | dd of="$drive" bs=1 seek=92 conv=notrunc 2> /dev/null
  little $((at + 1)) | dd of="$drive" bs=1 seek=$((at * 512 + 500)) conv=notrunc 2> /dev/null
fi
sync
umount /target/boot 2> /dev/null
umount /target
sync
say "$title is installed."
say "? restart: Take the medium out and press Enter."
IFS= read -r said < $line
say "Restarting."
sleep 0.3
reboot -f
