namespace FreshBoot.Server.Tests;

/// <summary>
/// What takes long: whole installations, many kills, many starts of the server. <c>./test.sh</c> leaves it out by this trait unless
/// <c>FRESHBOOT_EVERY_START</c> is set, as it is before a change lands.
/// </summary>
internal static class Long
{
    /// <summary>The name of the trait.</summary>
    public const string Trait = "Length";

    /// <summary>Its value.</summary>
    public const string Value = "Long";
}
