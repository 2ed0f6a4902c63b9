namespace FreshBoot.Server.Tests;

/// <summary>
/// Whether everything is tried that takes long: each start in the emulator, each kill. CI does; a person's <c>./test.sh</c> takes of each
/// kind a few. <c>FRESHBOOT_EVERY_START=1</c> switches it on.
/// </summary>
internal static class EveryStart
{
    public static bool IsWanted { get; } = Environment.GetEnvironmentVariable("FRESHBOOT_EVERY_START") is not null;

    /// <summary>So many where all are wanted, else so few.</summary>
    public static int Of(int all, int few) => IsWanted ? all : few;
}
