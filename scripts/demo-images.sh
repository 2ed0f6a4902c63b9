#!/usr/bin/env bash
# Builds a tiny installer image for each demo system from demo/installers: a real loader that starts by BIOS and UEFI, from
# disc and stick, and a script that holds the machine against the gates. Those whose system.conf says "live=yes" carry a
# small system of our own too (demo/live: a kernel of Debian's packages, busybox, our scripts), which installs itself and starts from the
# drive. The images come out the same on every run.
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

sum=$(cd "$home" && find demo/installers demo/live scripts/demo-images.sh probe/fresh-boot-probe.sh -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum | cut -d ' ' -f 1)
[ "$(cat "$out/.built-from" 2> /dev/null)" = "$sum" ] && exit 0

work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
export SOURCE_DATE_EPOCH=1764547200 TZ=UTC LC_ALL=C

# The kernel is fetched once and kept; without it the images end at their gates, and the next run tries again.
cache=${FRESHBOOT_CACHE:-$home/.cache}
live=yes
FRESHBOOT_CACHE=$cache sh "$home/probe/make-stick.sh" --kernel > "$work/kernel.log" 2>&1 || live=no
[ "$live" = yes ] || { cat "$work/kernel.log" >&2; echo "demo-images: without a kernel the demo's systems cannot install themselves" >&2; }

common="linux iso9660 part_msdos part_gpt fat search search_fs_file normal configfile serial terminal echo sleep halt smbios regexp cpuid test true ls cat minicmd"
# shellcheck disable=SC2016 # the loader expands them
printf 'search --no-floppy --set=root --file /setup/system.conf\nset prefix=($root)/boot/grub\nconfigfile $prefix/grub.cfg\n' > "$work/early.cfg"
# shellcheck disable=SC2086 # a list of modules
{
  grub-mkimage -O i386-pc-eltorito -p /boot/grub -c "$work/early.cfg" -o "$work/eltorito.img" biosdisk $common
  grub-mkimage -O x86_64-efi -p /boot/grub -c "$work/early.cfg" -o "$work/BOOTX64.EFI" efi_gop $common
  grub-mkimage -O i386-efi -p /boot/grub -c "$work/early.cfg" -o "$work/BOOTIA32.EFI" efi_gop $common
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

# library PROGRAM...: programs with what they are linked with. Their libraries lie apart from the static busybox, which would
# load a C library that it was not built with. Their note of the instruction level goes: the C library looks for it by the names of the
# makers that it knows, and the processors of the demo have made-up ones.
library() {
  local program path file
  mkdir -p "$root/opt/bin" "$root/opt/real" "$root/opt/lib"
  for program in "$@"; do
    path=$(PATH=$PATH:/sbin:/usr/sbin command -v "$program")
    objcopy -R .note.gnu.property "$path" "$root/opt/real/$program"
    printf '#!/bin/busybox sh\nLD_LIBRARY_PATH=/opt/lib exec /opt/real/%s "$@"\n' "$program" > "$root/opt/bin/$program"
    chmod +x "$root/opt/bin/$program"
    ldd "$path" | grep -o '/[^ ]*' | while read -r file; do
      case $file in
        */ld-linux*) mkdir -p "$root$(dirname "$file")" && cp -L "$file" "$root$file" ;;
        *) objcopy -R .note.gnu.property "$file" "$root/opt/lib/${file##*/}" ;;
      esac
    done
  done
}

# The small system: busybox, the programs that divide a drive, the drivers of common drives, the probe, and our scripts.
if [ "$live" = yes ]; then
  root=$work/live-root
  modules=$(find "$cache/stick/amd64" -mindepth 1 -maxdepth 1 -type d | head -n 1)
  release=${modules##*/}
  mkdir -p "$root/bin" "$root/lib/modules/$release" "$work/all/lib/modules"
  ln -s "$modules" "$work/all/lib/modules/$release"
  [ -e "$modules/modules.dep" ] || PATH=$PATH:/sbin:/usr/sbin depmod -b "$work/all" "$release" 2> /dev/null || true
  for name in ahci ata_piix sd_mod sr_mod nvme usb_storage uas xhci_pci ehci_pci uhci_hcd virtio_pci virtio_blk ext4 crc32c_generic vfat nls_cp437 nls_ascii nls_iso8859-1 isofs efivarfs tpm_tis tpm_crb battery ac; do
    PATH=$PATH:/sbin:/usr/sbin modprobe -d "$work/all" -S "$release" --show-depends "$name" 2> /dev/null | sed -n 's/^insmod \([^ ]*\).*/\1/p'
  done | sort -u | while read -r file; do
    file=${file#"$work/all/lib/modules/$release/"}
    mkdir -p "$root/lib/modules/$release/$(dirname "$file")"
    cp "$modules/$file" "$root/lib/modules/$release/$file"
  done
  cp "$modules/modules.builtin" "$modules/modules.order" "$root/lib/modules/$release/" 2> /dev/null || true
  PATH=$PATH:/sbin:/usr/sbin depmod -b "$root" "$release" 2> /dev/null
  cp "$(command -v busybox)" "$root/bin/busybox"
  library sfdisk partx mke2fs mkfs.vfat blkid lsblk lscpu
  # A drive of any size is made ready at once: what the tables need is written when it is needed.
  printf '#!/bin/busybox sh\nLD_LIBRARY_PATH=/opt/lib exec /opt/real/mke2fs -t ext4 -E lazy_itable_init=1,lazy_journal_init=1,nodiscard "$@"\n' > "$root/opt/bin/mkfs.ext4"
  chmod +x "$root/opt/bin/mkfs.ext4"
  cp "$home/demo/live/init" "$home"/demo/live/*.sh "$root/"
  cp "$home/probe/fresh-boot-probe.sh" "$root/probe.sh"
  chmod +x "$root/init"
  find "$root" -exec touch -h -d "@$SOURCE_DATE_EPOCH" {} +
  (cd "$root" && find . -print0 | sort -z | cpio -0 -o -H newc --quiet --reproducible --owner=0:0 | gzip -9n) > "$work/live.gz"
  # The loaders for the drive look for what setup writes there, never for a medium.
  # shellcheck disable=SC2016 # the loader expands them
  printf 'search --no-floppy --set=root --file /boot/loader/loader.cfg\nconfigfile ($root)/boot/loader/loader.cfg\n' > "$work/drive.cfg"
  mkdir "$work/drive"
  drive="part_msdos part_gpt ext2 fat search search_fs_file normal configfile linux serial terminal echo test sleep minicmd"
  # shellcheck disable=SC2086 # a list of modules
  {
    grub-mkimage -O i386-pc -p /boot/loader -c "$work/drive.cfg" -o "$work/drive/core.img" biosdisk $drive
    grub-mkimage -O x86_64-efi -p /boot/loader -c "$work/drive.cfg" -o "$work/drive/BOOTX64.EFI" efi_gop $drive
    grub-mkimage -O i386-efi -p /boot/loader -c "$work/drive.cfg" -o "$work/drive/BOOTIA32.EFI" efi_gop $drive
  }
  cp /usr/lib/grub/i386-pc/boot.img "$work/drive/boot.img"
fi

for folder in "$installers"/*/; do
  system=$(basename "$folder")
  tree=$work/$system
  mkdir -p "$tree/boot/grub"
  cp "$installers/loader.cfg" "$tree/boot/grub/grub.cfg"
  cp "$work/eltorito.img" "$tree/boot/grub/eltorito.img"
  cp -r "$folder/." "$tree/"
  if [ "$live" = yes ] && grep -qx 'set live=yes' "$tree/setup/system.conf"; then
    mkdir "$tree/live"
    cp "$cache/stick/amd64/vmlinuz" "$work/live.gz" "$tree/live/"
    cp -r "$work/drive" "$tree/live/drive"
    (cd "$tree/live" && sha256sum -- vmlinuz live.gz > SHA256SUMS)
  fi
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
[ "$live" = no ] || echo "$sum" > "$out/.built-from"
