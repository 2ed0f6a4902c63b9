using System.Text;
using System.Text.RegularExpressions;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Patching;

/// <summary>What the builder of an answer file is told.</summary>
/// <param name="Account">Name of the local account.</param>
/// <param name="Password">Its first password; empty for none, which is warned of.</param>
/// <param name="Region">Region, such as <c>Eddlestow</c>.</param>
/// <param name="Keyboard">Keyboard layout, such as <c>en</c>.</param>
/// <param name="Privacy">Each privacy question and whether it is answered with yes.</param>
/// <param name="Encryption">Whether the drive is encrypted.</param>
/// <param name="ComputerName">Pattern of the computer's name; <c>{tag}</c> and <c>{number}</c> are filled in.</param>
/// <param name="SkipAccountStep">Whether the step that asks for the maker's account is passed.</param>
/// <param name="SkipNetworkStep">Whether the step that asks for a network is passed.</param>
public sealed record Answers(
    string Account,
    string Password,
    string Region,
    string Keyboard,
    IReadOnlyDictionary<string, bool> Privacy,
    bool Encryption,
    string ComputerName,
    bool SkipAccountStep,
    bool SkipNetworkStep
);

/// <summary>
/// Writes the answer file of the demo systems, <c>setup/answers.conf</c>: a list of commands that the installer carries out.
/// docs/demo-installers.md describes the format, which is ours.
/// </summary>
public static partial class AnswerFile
{
    /// <summary>Longest computer name, in characters: what fits a NetBIOS name (RFC 1001).</summary>
    public const int LongestName = 15;

    /// <summary>The file, and what to know of it.</summary>
    /// <param name="answers">What was answered.</param>
    /// <param name="rules">The rules of the system.</param>
    /// <param name="tag">Tag of the machine; null for a file that serves many.</param>
    /// <param name="hasTpm">Whether the machine has a TPM that works; null where nobody knows.</param>
    /// <exception cref="RefusedException">A name that the system refuses, a computer name that is none.</exception>
    public static (string Text, IReadOnlyList<string> Warnings) Write(
        Answers answers,
        AnswerRules rules,
        string? tag,
        bool? hasTpm
    )
    {
        // A pattern that ends in $ lets a line feed through at the end.
        if (
            answers.Account.Any(char.IsControl)
            || !Regex.IsMatch(answers.Account, rules.AccountName, RegexOptions.NonBacktracking)
        )
            throw Refuse(
                $"The system refuses “{answers.Account}” as the name of an account.",
                "account",
                rules.AccountRule
            );
        foreach (
            var (field, value) in new[]
            {
                ("password", answers.Password),
                ("region", answers.Region),
                ("keyboard", answers.Keyboard),
            }
        )
            if (value.Length > 60 || value.Any(c => c is '"' or '$' or '\\' or '`' || char.IsControl(c)))
                throw Refuse(
                    "A quote, dollar, backslash or control character, or more than 60 characters.",
                    field,
                    "Plain text; the installer reads these characters as its own."
                );
        if (answers.Region.Length == 0 || answers.Keyboard.Length == 0)
            throw Refuse(
                "Region or keyboard is empty: the installer would ask.",
                answers.Region.Length == 0 ? "region" : "keyboard",
                "A region and a keyboard."
            );
        if (answers.Privacy.Keys.FirstOrDefault(k => !rules.Privacy.ContainsKey(k)) is { } unknown)
            throw Refuse(
                $"The system has no privacy question “{unknown}”.",
                "privacy",
                Numbers.Join(rules.Privacy.Keys, "or")
            );
        var name = tag is null
            ? answers.ComputerName
            : answers
                .ComputerName.Replace("{tag}", tag, StringComparison.Ordinal)
                .Replace("{number}", string.Concat(tag.Where(char.IsAsciiDigit)), StringComparison.Ordinal);
        var leftOpen = tag is null && answers.ComputerName.Contains('{', StringComparison.Ordinal);
        if (!leftOpen && !(NameForm().IsMatch(name) && name.Any(char.IsAsciiLetter)))
            throw Refuse(
                $"“{name}” is no name for a computer.",
                "computerName",
                $"Letters, digits and hyphens, at most {LongestName}, with a letter in it; {{tag}} and {{number}} are filled in."
            );

        var warnings = new List<string>();
        if (answers.Password.Length == 0)
            warnings.Add(
                "The account has no password: whoever opens the lid is in. Set one before the machine leaves, or have the new owner set it at the first start."
            );
        else
            warnings.Add(
                "The password lies readable on the medium. It is for the first start only; the new owner sets another."
            );
        if (answers.Encryption && hasTpm == false)
            warnings.Add(
                "Encryption without a TPM asks for a passphrase at every start. Whoever forgets it loses the data."
            );
        else if (answers.Encryption)
            warnings.Add(
                "The recovery key is shown once, at the end of set-up. Give it to the owner; the shop keeps none."
            );
        else
            warnings.Add(
                "Without encryption whoever takes the drive out reads it. The shop can recover files, and so can others."
            );
        if (answers.SkipAccountStep)
            warnings.Add("Without the maker's account there is no sync and no recovery by the maker.");
        if (leftOpen)
            warnings.Add("The computer's name is filled in for each machine when the file is made for its tag.");

        var text = new StringBuilder("answers 1\n");
        Say("account", answers.Account);
        Say("password", answers.Password.Length == 0 ? "none" : answers.Password);
        Say("region", answers.Region);
        Say("keyboard", answers.Keyboard);
        Say("computer", leftOpen ? "ask" : name);
        Say("encryption", answers.Encryption ? "on" : "off");
        Say("account-step", answers.SkipAccountStep ? "skip" : "show");
        Say("network-step", answers.SkipNetworkStep ? "skip" : "show");
        // A question that nobody answered is answered with no: what is not wanted is not sent.
        foreach (var question in rules.Privacy.Keys.Order(StringComparer.Ordinal))
            Say($"privacy-{question}", answers.Privacy.GetValueOrDefault(question) ? "yes" : "no");
        return (text.ToString(), warnings);

        void Say(string key, string value) => text.Append($"answer {key} \"{value}\"\n");
    }

    /// <summary>Whether a recipe adds an answer file that passes over the page which asks for the maker's account.</summary>
    public static bool PassesAccount(Recipe recipe) =>
        recipe.Operations.OfType<AddFile>().Any(a => a.Text?.Contains(AccountPassed, StringComparison.Ordinal) == true);

    private const string AccountPassed = "answer account-step \"skip\"\n";

    private static RefusedException Refuse(string what, string where, string wanted) =>
        new(RefusalKind.Invalid, what, where, wanted);

    [GeneratedRegex("^[A-Za-z0-9][A-Za-z0-9-]{0,13}[A-Za-z0-9]\\z")]
    private static partial Regex NameForm();
}
