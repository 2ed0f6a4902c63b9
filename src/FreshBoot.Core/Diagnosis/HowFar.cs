namespace FreshBoot.Core.Diagnosis;

/// <summary>How far a machine got, in words of what one sees: each rung is one that it does not get past.</summary>
public static class HowFar
{
    /// <summary>What one sees at each rung, from the bottom.</summary>
    public static IReadOnlyList<(Rung Rung, string Sees)> All { get; } =
    [
        (Rung.Release, "It asks for somebody’s sign-in, password or key before anything can be done."),
        (
            Rung.Parts,
            "No light, no fan, no picture; it beeps, and no maker’s logo comes; or memory that is fitted is not there."
        ),
        (Rung.Firmware, "The maker’s logo comes or came; a switch, the chip or Secure Boot is in the way."),
        (Rung.Medium, "The stick or disc is not listed, or it is chosen and nothing of it starts."),
        (Rung.Setup, "The installer starts, and refuses, asks what it should not, or the boot picker returns."),
        (Rung.Disk, "Dividing or copying fails; or it is installed, and then nothing starts from the drive."),
        (Rung.Kernel, "Its loader comes from the drive; then it stops, restarts, or the screen stays black."),
        (Rung.Devices, "It runs; a device is missing or does nothing."),
        (Rung.Use, "All devices are there; it is slow, hot, or a program fails."),
        (Rung.Upkeep, "It worked; since an update, or for want of one, it does not."),
    ];
}
