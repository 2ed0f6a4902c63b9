using System.ComponentModel.DataAnnotations;
using System.Diagnostics.CodeAnalysis;

namespace FreshBoot.Server.Hosting;

/// <summary>A text on one line that is not blank. What it says where it does not hold is what would be right.</summary>
[AttributeUsage(AttributeTargets.Property | AttributeTargets.Parameter)]
internal sealed class LineAttribute(int longest) : ValidationAttribute
{
    /// <summary>Longest text, in characters.</summary>
    public int Longest => longest;

    public override bool IsValid(object? value) => value is null || value is string text && Given.IsLine(text, longest);

    public override string FormatErrorMessage(string name) => Given.LineWanted(longest);
}

/// <summary>An asset tag.</summary>
[AttributeUsage(AttributeTargets.Property | AttributeTargets.Parameter)]
internal sealed class TagAttribute : ValidationAttribute
{
    public override bool IsValid([NotNullWhen(true)] object? value) =>
        value is null || value is string text && Given.IsTag(text);

    public override string FormatErrorMessage(string name) => Given.TagWanted;
}
