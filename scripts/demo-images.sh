#!/usr/bin/env bash
# Builds a tiny installer image for each demo system from demo/installers: a real loader that starts by BIOS and UEFI, from
# disc and stick, and a script that holds the machine against the gates. The images come out the same on every run.
#
#   scripts/demo-images.sh OUT_FOLDER
#
# Nothing is built where the folder holds what was built from the same files already.
set -euo pipefail
home=$(cd "$(dirname "$0")/.." && pwd)
out=${1:?scripts/demo-images.sh wants a folder to write to}
mkdir -p "$out"
out=$(cd "$out" && pwd)
installers=$home/demo/installers

sum=$(cd "$home" && find demo/installers scripts/demo-images.sh -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum | cut -d ' ' -f 1)
[ "$(cat "$out/.built-from" 2> /dev/null)" = "$sum" ] && exit 0

work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
export SOURCE_DATE_EPOCH=1764547200 TZ=UTC LC_ALL=C

common="iso9660 part_msdos part_gpt fat search search_fs_file normal configfile serial terminal echo sleep halt smbios regexp cpuid test true ls cat minicmd"
# shellcheck disable=SC2016 # the loader expands them
printf 'search --no-floppy --set=root --file /setup/system.conf\nset prefix=($root)/boot/grub\nconfigfile $prefix/grub.cfg\n' > "$work/early.cfg"
# shellcheck disable=SC2086 # a list of modules
{
  grub-mkimage -O i386-pc-eltorito -p /boot/grub -c "$work/early.cfg" -o "$work/eltorito.img" biosdisk $common
  grub-mkimage -O x86_64-efi -p /boot/grub -c "$work/early.cfg" -o "$work/BOOTX64.EFI" $common
  grub-mkimage -O i386-efi -p /boot/grub -c "$work/early.cfg" -o "$work/BOOTIA32.EFI" $common
}

# fat FILE LOADER...: an EFI system partition of 4 MiB with these loaders.
fat() {
  local image=$1 name
  shift
  mkfs.vfat -C --invariant -i 46424f4f -n EFI "$image" 4096 > /dev/null
  mmd -i "$image" ::/EFI ::/EFI/BOOT
  for name in "$@"; do
    touch -d "@$SOURCE_DATE_EPOCH" "$work/$name"
    mcopy -m -i "$image" "$work/$name" "::/EFI/BOOT/$name"
  done
}
fat "$work/efi64.img" BOOTX64.EFI
fat "$work/efi-both.img" BOOTX64.EFI BOOTIA32.EFI

for folder in "$installers"/*/; do
  system=$(basename "$folder")
  tree=$work/$system
  mkdir -p "$tree/boot/grub"
  cp "$installers/loader.cfg" "$tree/boot/grub/grub.cfg"
  cp "$work/eltorito.img" "$tree/boot/grub/eltorito.img"
  cp -r "$folder/." "$tree/"
  # Open systems bring a loader for 32-bit UEFI too.
  case $system in
    wickerwork-26 | pebblemoss-32) efi=$work/efi-both.img ;;
    *) efi=$work/efi64.img ;;
  esac
  find "$tree" -exec touch -d "@$SOURCE_DATE_EPOCH" {} +
  label=$(printf '%s' "$system" | tr 'a-z-' 'A-Z_')
  xorriso -as mkisofs -quiet -r -V "$label" -o "$out/$system.iso.part" --modification-date=2025120100000000 \
    --gpt_disk_guid 46424f4f-0000-4000-8000-000000000001 \
    --grub2-mbr /usr/lib/grub/i386-pc/boot_hybrid.img -partition_offset 16 -appended_part_as_gpt \
    -append_partition 2 C12A7328-F81F-11D2-BA4B-00A0C93EC93B "$efi" \
    -b boot/grub/eltorito.img -no-emul-boot -boot-load-size 4 -boot-info-table --grub2-boot-info \
    -eltorito-alt-boot -e '--interval:appended_partition_2:all::' -no-emul-boot "$tree" 2> "$work/log" || {
    cat "$work/log" >&2
    exit 1
  }
  mv "$out/$system.iso.part" "$out/$system.iso"
done
# The list of checksums as a maker would put it beside the images.
(cd "$out" && sha256sum -- *.iso > SHA256SUMS)
echo "$sum" > "$out/.built-from"
