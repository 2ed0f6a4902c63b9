# shellcheck shell=dash
# The second part of an upgrade in place, started by the loader on the drive from what the running system put there: the programs
# of the new system over those of the old one. What is under /home, the accounts and the name stay.

# shellcheck source=demo/live/common.sh disable=SC1091 # it lies beside this in the archive
. /common.sh
exec > /dev/tty0 2>&1
next=/target/boot/next
conf=$next/setup/system.conf
title=$(value title)
build=$(value build)
say "$title $build: the upgrade goes on"
say "Copying …"
copy_system || stop "copying fails: a program cannot be written, or the drive took no more."
{
  echo "title=\"$title\""
  echo "build=\"$build\""
  echo "id=\"$(value system)\""
  sed -n '/^region=/p; /^keyboard=/p' /target/etc/system.conf
} > /target/etc/system.new
rm -rf /target/etc/second
[ ! -e $next/setup/second ] || cp -r $next/setup/second /target/etc/second
cp $next/vmlinuz $next/live.gz /target/boot/ || stop "copying fails: the drive took no more."
sync
# From here on the new one starts.
mv /target/etc/system.new /target/etc/system.conf
# shellcheck disable=SC2154 # init found it
write_loader /target "$root" ''
sync
rm -rf $next
umount /target
sync
say "$title is installed."
say "Restarting."
sleep 0.3
reboot -f
