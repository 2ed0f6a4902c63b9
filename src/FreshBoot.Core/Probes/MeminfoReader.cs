using System.Globalization;

namespace FreshBoot.Core.Probes;

/// <summary><c>/proc/meminfo</c>: what the running system sees, which is less than what is fitted.</summary>
internal static class MeminfoReader
{
    public static void Read(string text, Report report)
    {
        foreach (var line in text.Split('\n'))
            if (
                line.Split(' ', StringSplitOptions.RemoveEmptyEntries) is ["MemTotal:", var number, "kB"]
                && long.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var kibibytes)
            )
            {
                // The kernel's "kB" are KiB.
                report.Add("memory.visibleMiB", "meminfo", kibibytes / 1024);
                return;
            }
        throw new UnreadableSourceException("There is no line “MemTotal: … kB” in it.", "line 1");
    }
}
