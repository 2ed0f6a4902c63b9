# shellcheck shell=dash
# Turns the table of the drive that this system runs from, MBR to GPT, as firmware that starts by UEFI wants it: every partition stays where
# it lies, and one for the loader comes behind the last. Nothing is written before all of it was found to fit.

device=$(blkid -U "$(sed -n 's/^.*fb.root=\([^ ]*\).*$/\1/p' /proc/cmdline)")
drive=${device%"${device##*[!0-9]}"}
table=/tmp/table
sfdisk -d "$drive" > $table.old 2> /dev/null
# Of a table like "/dev/sda1 : start=2048, size=100, type=83, bootable" where each partition begins and how long it is, in sectors of 512 bytes.
sed -n 's/^[^:]* : start= *\([0-9]*\), size= *\([0-9]*\), type= *\([^, ]*\).*$/\1 \2 \3/p' $table.old > $table.parts
last=$(awk '{ end = $1 + $2; if (end > most) most = end } END { printf "%.0f", most }' $table.parts)
efi=$(((last + 2047) / 2048 * 2048))
efi_sectors=204800
# The second copy of a GPT takes the last 33 sectors (UEFI 2.10, 5.3.2).
room=$(($(cat "/sys/block/${drive#/dev/}/size") - 34 - efi))

turn() {
  {
    echo "label: gpt"
    awk '{ printf "start=%s, size=%s, type=0FC63DAF-8483-4772-8E79-3D69D8477DE4\n", $1, $2 }' $table.parts
    echo "start=$efi, size=$efi_sectors, type=C12A7328-F81F-11D2-BA4B-00A0C93EC93B"
  } > $table.new
  sfdisk -q --no-reread --force --wipe never "$drive" < $table.new > /tmp/turn.log 2>&1 || return 1
  sync
  number=$(($(wc -l < $table.parts) + 1))
  # The partitions that are in use stay as the kernel knows them; the new one is made known to it, where writing has not done so.
  [ -b "$drive$number" ] || partx -a --nr $number "$drive" >> /tmp/turn.log 2>&1
  mkfs.vfat -F 32 -n EFI "$drive$number" >> /tmp/turn.log 2>&1 || return 1
  mkdir -p /tmp/efi
  mount -t vfat "$drive$number" /tmp/efi || return 1
  mkdir -p /tmp/efi/EFI/BOOT
  cp /boot/uefi/*.EFI /tmp/efi/EFI/BOOT/ || return 1
  umount /tmp/efi
  sync
}

if ! grep -qx 'label: dos' $table.old; then
  say "Nothing was changed: the table of this drive is no MBR."
elif ! awk 'BEGIN { good = 1 } $3 == "5" || $3 == "f" || $3 == "85" { good = 0 } END { exit !good }' $table.parts; then
  say "Nothing was changed: an extended partition is not turned."
elif [ $room -lt $efi_sectors ]; then
  say "Nothing was changed: behind the last partition there is no room for the loader's."
elif [ ! -e /boot/uefi/BOOTX64.EFI ]; then
  say "Nothing was changed: this system carries no loader for UEFI."
elif turn; then
  say "The table is a GPT now. It starts by UEFI only, from the next start on."
else
  while IFS= read -r text; do say "  $text"; done < /tmp/turn.log
  stop "the table could not be turned."
fi
