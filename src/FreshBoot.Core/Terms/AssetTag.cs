using System.Text.RegularExpressions;

namespace FreshBoot.Core.Terms;

/// <summary>Asset tags, such as <c>MR-0417</c>.</summary>
public static partial class AssetTag
{
    /// <summary>The form of an asset tag.</summary>
    [GeneratedRegex("^[A-Z0-9]{1,12}(?:-[A-Z0-9]{1,12}){0,3}\\z", RegexOptions.CultureInvariant)]
    public static partial Regex Form();
}
