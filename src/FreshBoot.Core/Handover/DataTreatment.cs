using System.Collections.Immutable;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Procedures;
using FreshBoot.Core.Runs;

namespace FreshBoot.Core.Handover;

/// <summary>Something that was said or done, by whom and when.</summary>
/// <param name="What">What: the value of a fact, or what was done.</param>
/// <param name="By">Who.</param>
/// <param name="On">When.</param>
public sealed record Attested(string What, string By, DateTimeOffset On);

/// <summary>
/// What was done with the data on a machine: what its facts and its run say, and no more. The certificate in any language is made
/// from it.
/// </summary>
/// <param name="Tag">The machine.</param>
/// <param name="Machine">Maker and model.</param>
/// <param name="Serial">Serial number of the casing.</param>
/// <param name="Drives">Its drives as they were before the work: model, size and serial number, as far as known.</param>
/// <param name="Wanted">What its owner wanted of it: a value of <c>release.data</c>.</param>
/// <param name="Encryption">Whether it was encrypted: a value of <c>release.encryption</c>.</param>
/// <param name="Method">
/// How it was erased: <c>clear</c>, <c>purge</c> or <c>destroy</c> (NIST SP 800-88), said as a fact or chosen in the run.
/// </param>
/// <param name="Done">What the run did: <c>erased</c> by that method, <c>divided</c> anew and written over, or <c>out</c>: taken out.</param>
/// <param name="Verified">Whether somebody read it again: <c>yes</c> or <c>no</c>.</param>
/// <param name="Rule">The rule that the shop works under; null where none is named.</param>
/// <param name="Language">The language of the owner.</param>
public sealed record DataTreatment(
    string Tag,
    string Machine,
    string? Serial,
    IReadOnlyList<string> Drives,
    Attested? Wanted,
    Attested? Encryption,
    Attested? Method,
    IReadOnlyList<Attested> Done,
    Attested? Verified,
    string? Rule,
    string Language
)
{
    /// <summary>The line that proves that nothing can be read any more.</summary>
    private const string ReadAgain = "Nothing can be read from its drives";

    private static readonly ImmutableArray<string> Methods = ["clear", "purge", "destroy"];

    /// <summary>Whether there is anything to certify.</summary>
    public bool IsEmpty => Wanted is null && Method is null && Done.Count == 0;

    /// <summary>Gathers it.</summary>
    /// <param name="tag">The machine.</param>
    /// <param name="before">Its dossier when the run began; as it is where there was none.</param>
    /// <param name="now">Its dossier as it is.</param>
    /// <param name="steps">Steps of the run.</param>
    /// <param name="events">What happened in it.</param>
    /// <param name="over">What was said of each step that is over; what was taken back is not there.</param>
    /// <param name="rule">The rule that the shop works under.</param>
    public static DataTreatment Of(
        string tag,
        Dossier before,
        Dossier now,
        IReadOnlyList<Step> steps,
        IReadOnlyList<RunEvent> events,
        IReadOnlyDictionary<string, Said> over,
        string? rule
    )
    {
        Attested? Fact(string key) =>
            (now.Find(key) ?? before.Find(key)) is { } fact
                ? new Attested(fact.Value.ToString() ?? "", fact.By ?? fact.Source, fact.TakenAt)
                : null;
        IEnumerable<Attested> Done(Func<Step, string?> what) =>
            steps
                .Select(step => (What: what(step), Said: over.GetValueOrDefault(step.Id)))
                .Where(s => s is { What: not null, Said.Kind: RunEventKinds.Done })
                .Select(s => new Attested(s.What!, s.Said!.By, s.Said.At));

        var chosen = events
            .Where(e => e.Kind == RunEventKinds.Done && over.GetValueOrDefault(e.StepId)?.Seq == e.Seq)
            .Select(e => e.Data.GetValueOrDefault(RunRules.Chosen)?.Split(':')[0])
            .LastOrDefault(method => method is not null && Methods.Contains(method));
        Attested[] done =
        [
            .. Done(step =>
                step.Does.ContainsKey("oldDrive") ? "out"
                : step.Kind != StepKind.Confirm ? null
                : step.Does.GetValueOrDefault("drive") switch
                {
                    "blank" => "erased",
                    "divided" => "divided",
                    _ => null,
                }
            ),
        ];
        // A method that was only chosen has erased nothing.
        var erased = done.LastOrDefault(d => d.What == "erased");
        return new DataTreatment(
            tag,
            MachineName.Of(before),
            before[SerialKey] is { } serial ? FactText.Show(SerialKey, serial) : null,
            [
                .. Enumerable
                    .Range(0, 10)
                    .Select(i =>
                        string.Join(
                            ", ",
                            new[] { $"storage.{i}.model", $"storage.{i}.sizeBytes", $"storage.{i}.serial" }
                                .Select(key => before[key] is { } value ? FactText.Show(key, value) : null)
                                .OfType<string>()
                        )
                    )
                    .Where(drive => drive.Length > 0),
            ],
            Fact("release.data"),
            Fact("release.encryption"),
            erased is not null && chosen is not null ? erased with { What = chosen } : Fact("release.erased"),
            done,
            Done(step => step.Proves == ReadAgain ? "yes" : null).LastOrDefault() ?? Fact("release.erasedVerified"),
            rule,
            now.Word(OwnerWords.LanguageKey) ?? OwnerWords.Own
        );
    }

    private const string SerialKey = "identity.serial";

    /// <summary>The certificate.</summary>
    /// <param name="words">The language.</param>
    /// <param name="shop">The shop's name.</param>
    /// <param name="today">The day on which it is written.</param>
    /// <param name="calendar">The workshop's days.</param>
    public OwnerSheet Certificate(OwnerWords words, string shop, DateOnly today, WorkshopCalendar calendar)
    {
        string Say(string id, Attested? said) =>
            words.Say(id, ("by", said?.By ?? ""), ("date", said is null ? "" : words.Day(calendar.Day(said.On))));
        string Fact(string group, Attested? said, string none) =>
            said is not null && $"{group}.{said.What}" is var id && words.Has(id) ? Say(id, said) : words.Say(none);
        OwnerPart Part(string id, params IEnumerable<string> items) => new(id, words.Say(id), [.. items]);

        var erased = Done.Any(d => d.What == "erased") || Method is not null;
        string[] done =
        [
            .. Method is null ? Array.Empty<string>() : [Fact("dataMethod", Method, "dataNothing")],
            .. Done.Where(d => d.What != "erased" || Method is null).Select(d => Say($"dataDone.{d.What}", d)),
        ];
        return new OwnerSheet(
            words.Code,
            words.Say("dataTitle", ("tag", Tag)),
            Tag,
            [
                Serial is { } serial
                    ? $"{Machine} · {words.Say("plate", ("serial", serial))}"
                    : $"{Machine} · {words.Say("plateUnknown")}",
            ],
            [
                Part("dataDrives", Drives.DefaultIfEmpty(words.Say("dataDrivesNone"))),
                Part(
                    "dataWas",
                    Fact("dataWanted", Wanted, "dataNotSaid"),
                    Fact("dataEncryption", Encryption, "dataEncryptionUnknown")
                ),
                Part("dataDone", done.DefaultIfEmpty(words.Say("dataNothing"))),
                Part(
                    "dataProof",
                    Verified?.What == "yes" ? [Say("dataVerified", Verified)]
                        : erased ? [words.Say("dataNotVerified")]
                        : Done.Any(d => d.What == "divided") ? [words.Say("dataDividedOnly")]
                        : [words.Say("dataNothingToProve")]
                ),
                Part("dataRule", Rule ?? words.Say("dataNoRule")),
            ],
            words.Say("dataFoot", ("shop", shop), ("date", words.Day(today)))
        );
    }
}
