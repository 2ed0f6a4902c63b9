using System.Globalization;
using System.Text.Json;

namespace FreshBoot.Core.Probes;

/// <summary>
/// Drives, from <c>lsblk -J -b</c> or from <c>/sys/block</c>. Only what a system could be installed on: compressed memory,
/// loop devices, optical, removable and USB drives are left out, so that the live stick itself is never taken for one; on a
/// single-board computer a card or a fixed USB drive counts where there is nothing else.
/// </summary>
internal static class StorageReader
{
    private const int SectorBytes = 512;
    private const int MostPartitions = 64;

    private sealed record Drive(
        string Name,
        long Bytes,
        string? Bus,
        bool? Spins,
        string? Model,
        string? Serial = null,
        long? Sector = null,
        string? Partitions = null,
        string? Table = null,
        long? Loader = null,
        string? Port = null
    );

    public static void ReadLsblk(byte[] bytes, Report report)
    {
        using var json = Sources.Json(bytes);
        if (
            json.RootElement.ValueKind != JsonValueKind.Object
            || !json.RootElement.TryGetProperty("blockdevices", out var devices)
            || devices.ValueKind != JsonValueKind.Array
        )
            throw new UnreadableSourceException("There is no list of block devices in it.", "/blockdevices");

        var drives = new List<Drive>();
        foreach (var device in devices.EnumerateArray().Where(d => d.ValueKind == JsonValueKind.Object))
        {
            var name = Text(device, "name") ?? "";
            if (Text(device, "type") is not "disk" || Yes(device, "rm") == true || Virtual(name))
                continue;
            if (Sources.Number(device, "size") is { } size)
                drives.Add(
                    new Drive(
                        name,
                        size,
                        Bus(name, Text(device, "tran"), report),
                        Yes(device, "rota"),
                        Text(device, "model"),
                        Text(device, "serial"),
                        Sources.Number(device, "log-sec"),
                        Partitions(device),
                        Text(device, "pttype") switch
                        {
                            "dos" => "mbr",
                            "gpt" => "gpt",
                            _ => null,
                        },
                        Loader(device),
                        // Host, channel, target and unit, as the kernel counts them: for SATA the host is the port.
                        Text(device, "hctl")
                    )
                );
            else
                report.Warn($"lsblk: {name} has no size in bytes; run lsblk with -b. Left out.");
        }
        Report(drives, "lsblk", report);
    }

    /// <summary>Reads <c>block.txt</c>: per drive a line of <c>name sectors removable rotational path model…</c>.</summary>
    public static void ReadSysfs(string text, Report report)
    {
        var drives = new List<Drive>();
        foreach (var line in text.Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            if (
                line.Split(' ', 6) is not [var name, var sectors, var removable, var spins, var path, .. var rest]
                || !long.TryParse(sectors, NumberStyles.None, CultureInfo.InvariantCulture, out var count)
            )
            {
                report.Warn("block: a line is not understood; left out.");
                continue;
            }
            if (
                removable == "1"
                || Virtual(name)
                || count <= 0
                || count > long.MaxValue / SectorBytes
                || name.StartsWith("sr", StringComparison.Ordinal)
            )
                continue;
            // "/ata" is in the path of parallel ATA too: the kernel's library for both names its ports so. Which of the two it is the
            // driver of the controller says, where the stick wrote it down.
            var transport = path.Contains("/usb", StringComparison.Ordinal) ? "usb" : null;
            drives.Add(
                new Drive(
                    name,
                    count * SectorBytes,
                    Bus(name, transport, report),
                    spins == "1",
                    rest.Length > 0 ? rest[0] : null
                )
            );
        }
        Report(drives, "block", report);
    }

    /// <summary>Reads <c>mmc.txt</c>: per card or chip a line of <c>name SD</c> or <c>name MMC</c>, as the kernel tells them apart.</summary>
    public static void ReadCards(string text, Report report)
    {
        foreach (var line in text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
            if (line.Split(' ') is [var name, ("SD" or "MMC") and var kind])
                report.Cards[name] = kind == "SD" ? "sd" : "emmc";
    }

    /// <summary>Reads <c>ata.txt</c>: per drive on an ATA port a line of <c>name sata</c> or <c>name ata</c>, as the kernel tells them apart.</summary>
    public static void ReadAta(string text, Report report)
    {
        foreach (var line in text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
            if (line.Split(' ') is [var name, ("sata" or "ata") and var bus])
                report.Ata[name] = bus;
    }

    private static void Report(List<Drive> found, string source, Report report)
    {
        // A single-board computer has nothing inside: there a drive on USB, or a card, is what it starts from.
        var board = report.Word("cpu.arch") == "arm";
        var inside = found.Where(d => d.Bus is not ("usb" or "sd")).ToArray();
        var drives = inside.Length > 0 || !board ? inside : [.. found];
        var kept = drives.OrderBy(d => d.Name, StringComparer.Ordinal).Take(10).ToArray();
        if (drives.Length > kept.Length)
            report.Warn($"{source}: {drives.Length} drives; the first {kept.Length} are taken.");
        report.Drives.Clear();
        for (var i = 0; i < kept.Length; i++)
        {
            report.Drives.Add((kept[i].Name, kept[i].Serial));
            report.Add($"storage.{i}.serial", source, kept[i].Serial);
            report.Add($"storage.{i}.sizeBytes", source, kept[i].Bytes);
            // Most drives have 512; one that says otherwise is worth knowing.
            if (kept[i].Sector is 4096L and var sector)
                report.Add($"storage.{i}.sectorBytes", source, sector);
            report.Add($"storage.{i}.bus", source, kept[i].Bus);
            // A virtual drive says that it spins whatever lies below it.
            if (kept[i] is { Spins: { } spins, Bus: not "virtio" })
                report.Add($"storage.{i}.kind", source, spins ? "disk" : "flash");
            report.Add($"storage.{i}.model", source, kept[i].Model);
            report.Add($"storage.{i}.partitions", source, kept[i].Partitions);
            report.Add($"storage.{i}.table", source, kept[i].Table);
            if (kept[i].Loader is { } loader)
                report.Add($"storage.{i}.loaderBytes", source, loader);
            report.Add($"storage.{i}.port", source, kept[i].Port is { } port ? $"host {port}" : null);
        }
    }

    /// <summary>
    /// The partitions of a drive as one text: where each begins and how long it is, in bytes, in the order of their places. lsblk
    /// counts their beginnings in sectors of 512 bytes, whatever the drive has.
    /// </summary>
    private static string? Partitions(JsonElement device)
    {
        if (!device.TryGetProperty("children", out var children) || children.ValueKind != JsonValueKind.Array)
            return null;
        var found = new List<(long Start, long Bytes)>();
        foreach (var child in children.EnumerateArray().Where(c => c.ValueKind == JsonValueKind.Object))
            // The container of logical partitions shows as a stub of a sector or two.
            if (
                Text(child, "type") == "part"
                && Sources.Number(child, "start") is >= 0 and <= long.MaxValue / SectorBytes and var start
                && Sources.Number(child, "size") is > 2 * SectorBytes and var size
            )
                found.Add((start * SectorBytes, size));
        return found.Count is 0 or > MostPartitions
            ? null
            : string.Join("; ", found.Order().Select(p => $"{p.Start} {p.Bytes}"));
    }

    /// <summary>Bytes of the EFI system partition: its type in a GPT (UEFI 2.10, table 5.7) or in an MBR (section 5.2.2).</summary>
    private static long? Loader(JsonElement device) =>
        device.TryGetProperty("children", out var children) && children.ValueKind == JsonValueKind.Array
            ? children
                .EnumerateArray()
                .Where(c =>
                    c.ValueKind == JsonValueKind.Object
                    && Text(c, "parttype")?.ToLowerInvariant() is "c12a7328-f81f-11d2-ba4b-00a0c93ec93b" or "0xef"
                )
                .Select(c => Sources.Number(c, "size"))
                .FirstOrDefault(size => size is >= 1_000_000)
            : null;

    private static bool Virtual(string name) =>
        name.StartsWith("zram", StringComparison.Ordinal)
        || name.StartsWith("loop", StringComparison.Ordinal)
        || name.StartsWith("ram", StringComparison.Ordinal)
        || name.StartsWith("fd", StringComparison.Ordinal)
        || name.StartsWith("nbd", StringComparison.Ordinal)
        || name.StartsWith("dm-", StringComparison.Ordinal)
        // Boot and replay-protected areas of an eMMC are no drives of their own.
        || (
            name.StartsWith("mmcblk", StringComparison.Ordinal)
            && (name.Contains("boot", StringComparison.Ordinal) || name.Contains("rpmb", StringComparison.Ordinal))
        );

    private static string? Bus(string name, string? transport, Report report) =>
        transport switch
        {
            "usb" => "usb",
            _ when report.Ata.TryGetValue(name, out var ata) => ata,
            "sata" => "sata",
            "ata" => "ata",
            "nvme" => "nvme",
            "sas" or "fc" or "iscsi" => "scsi",
            _ when name.StartsWith("nvme", StringComparison.Ordinal) => "nvme",
            _ when name.StartsWith("mmcblk", StringComparison.Ordinal) => report.Cards.GetValueOrDefault(name, "emmc"),
            _ when name.StartsWith("vd", StringComparison.Ordinal) => "virtio",
            _ when name.StartsWith("hd", StringComparison.Ordinal) => "ata",
            _ => null,
        };

    private static string? Text(JsonElement element, string name) => Sources.Text(element, name);

    private static bool? Yes(JsonElement element, string name) =>
        !element.TryGetProperty(name, out var value)
            ? null
            : value.ValueKind switch
            {
                JsonValueKind.True => true,
                JsonValueKind.False => false,
                JsonValueKind.String => Sources.Text(value) == "1",
                _ => null,
            };
}
