using FreshBoot.Core.Procedures;

namespace FreshBoot.Core.Tests.Sheets;

/// <summary>What a step says is what it does to the small world, in both directions.</summary>
public class StepWordsTests
{
    [Fact]
    public void No_shipped_procedure_says_one_thing_and_does_another() =>
        Shipped
            .Catalogue.Procedures.SelectMany(p => StepWords.Faults(p), (p, f) => $"{p.Id}.{f.Step}: {f.Says}")
            .ShouldBeEmpty();

    private static readonly Dictionary<string, Func<ProcedureEntry>> Planted = new(StringComparer.Ordinal)
    {
        ["saved and started, and off"] = () =>
            Says("settings-back", "save", "Save the settings and let it start once from the drive."),
        ["shut down, and still running"] = () => Undone("shut-down", "down", "running"),
        ["shut down, without a word of it"] = () => Says("shut-down", "down", "Look at the screen once more."),
        ["a stick put in that is not in the port"] = () => Undone("take-stick", "plug", "mediumAt"),
        ["a stick in the port that nobody put in"] = () => Says("take-stick", "plug", "Look at the label once more."),
        ["a stick taken out that stays"] = () => Undone("upgrade", "out", "mediumAt"),
        ["a medium written that is not"] = () => Undone("write-medium", "begin", "medium"),
        ["encryption suspended in words only"] = () => Undone("suspend-encryption", "suspend", "encryption"),
        ["encryption on again in words only"] = () => Undone("resume-encryption", "resume", "encryption"),
        ["encryption suspended without a word"] = () =>
            Says("suspend-encryption", "suspend", "Open the page about drive encryption and read it."),
        ["a casing opened in words only"] = () => Undone("fit-memory", "open", "case"),
        ["a casing opened without a word"] = () => Says("fit-memory", "open", "Look at it from below."),
        ["a casing closed in words only"] = () => Undone("fit-memory", "close", "case"),
        ["power pulled in words only"] = () => Undone("fit-memory", "off", "power"),
        ["power back without a word"] = () => Says("fit-memory", "close", "{closeCase}."),
        ["scripts allowed in words only"] = () => Undone("upgrade", "scripts", "scripts"),
        ["protection off in words only"] = () => Undone("reflash", "protection", "writeProtect"),
        ["protection on again without a word"] = () => Says("protection-on", "on", "Look at the board."),
        ["an installation begun in words only"] = () => Undone("copy", "go", "installed"),
        ["erased in words only"] = () => Undone("erase-drive", "erase", "drive"),
    };

    public static TheoryData<string> Names => [.. Planted.Keys];

    [Theory]
    [MemberData(nameof(Names))]
    public void A_planted_word_is_found(string name) => StepWords.Faults(Planted[name]()).ShouldNotBeEmpty(name);

    private static ProcedureEntry Change(string procedure, string step, Func<StepEntry, StepEntry> change)
    {
        var entry = Shipped.Catalogue.Procedures.Single(p => p.Id == procedure);
        entry.Steps.ShouldContain(s => s.Id == step);
        return entry with { Steps = [.. entry.Steps.Select(s => s.Id == step ? change(s) : s)] };
    }

    private static ProcedureEntry Says(string procedure, string step, string text) =>
        Change(procedure, step, s => s with { Text = text });

    private static ProcedureEntry Undone(string procedure, string step, string key) =>
        Change(
            procedure,
            step,
            s =>
                s with
                {
                    Does = s
                        .Does.Where(d => d.Key != key)
                        .ToDictionary(d => d.Key, d => d.Value, StringComparer.Ordinal),
                }
        );
}
