using System.Text.Json;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Release;
using FreshBoot.Core.Runs;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Release;

/// <summary>Answers to questions of the release rung; what is left out stays as it is.</summary>
/// <param name="By">Who answers.</param>
/// <param name="Source">Where the answers come from; null for "asked at intake".</param>
/// <param name="Owner">given, asked or refused.</param>
/// <param name="Evidence">What shows the ownership.</param>
/// <param name="Managed">free, waiting or claimed.</param>
/// <param name="Letter">What the organisation answered, and where that lies.</param>
/// <param name="Check">reset or connected.</param>
/// <param name="Data">not-wanted, saved, drive-kept or asked.</param>
/// <param name="DataWhere">Where the data was saved.</param>
/// <param name="DataReopened">Whether it was opened again to check.</param>
/// <param name="Encryption">none, key-seen or key-missing.</param>
/// <param name="Locks">none, firmware-password or activation-lock.</param>
/// <param name="Erased">clear, purge or destroy, in the sense of NIST SP 800-88.</param>
/// <param name="ErasedVerified">Whether the erasure was verified.</param>
internal sealed record ReleaseAnswers(
    string By,
    string? Source = null,
    string? Owner = null,
    string? Evidence = null,
    string? Managed = null,
    string? Letter = null,
    string? Check = null,
    string? Data = null,
    string? DataWhere = null,
    bool? DataReopened = null,
    string? Encryption = null,
    string? Locks = null,
    string? Erased = null,
    bool? ErasedVerified = null
);

/// <summary>The release rung of a machine.</summary>
/// <param name="Tag">The machine.</param>
/// <param name="Outcome">How the rung stands.</param>
/// <param name="Question">What is asked or said next; null when nothing is left.</param>
/// <param name="Facts">What is known.</param>
/// <param name="Stops">What forbids a run now, in sentences.</param>
/// <param name="MayBegin">Whether a run may begin.</param>
/// <param name="Letter">The letter to the organisation; null where none holds the machine.</param>
internal sealed record ReleaseSheet(
    string Tag,
    Outcome Outcome,
    ReleaseQuestion? Question,
    IReadOnlyList<Fact> Facts,
    IReadOnlyList<StartStop> Stops,
    bool MayBegin,
    string? Letter
);

internal static class ReleaseEndpoints
{
    public static void MapRelease(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/api/machines/{tag}/release",
                async (string tag, MachineStore store, Shop shop, CancellationToken stop) =>
                    Show(shop.Stand(await store.GetAsync(Given.Tag(tag, "tag"), stop)), shop)
            )
            .WithSummary("The release rung: what is known, what is asked next, what forbids a run")
            .ProducesProblem(StatusCodes.Status404NotFound);

        app.MapPut(
                "/api/machines/{tag}/release",
                async (
                    string tag,
                    ReleaseAnswers answers,
                    MachineStore store,
                    Shop shop,
                    TimeProvider clock,
                    CancellationToken stop
                ) =>
                {
                    var by = Given.Text(answers.By, "by", 60);
                    var source = answers.Source is { } said ? Given.Text(said, "source", 100) : "asked at intake";
                    var now = clock.GetUtcNow();
                    Reading[] readings =
                    [
                        .. Answered(answers)
                            .Select(g => new Reading(
                                g.Key,
                                FactEntry.Read(g.Key, JsonSerializer.SerializeToElement(g.Value)),
                                source,
                                Origin.Entered,
                                now,
                                by
                            )),
                    ];
                    if (readings.Length == 0)
                        throw new RefusedException(
                            RefusalKind.Invalid,
                            "No answer came with it.",
                            "body",
                            "At least one of owner, evidence, managed, letter, check, data, dataWhere, dataReopened, encryption, locks, erased, erasedVerified."
                        );
                    var known = shop.Dossier(await store.GetAsync(Given.Tag(tag, "tag"), stop));
                    Check(answers, known);
                    return Show(shop.Stand(await store.EnterAsync(Given.Tag(tag, "tag"), readings, stop)), shop);
                }
            )
            .WithSummary("Answers questions of the release rung, all at once or none")
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict);
    }

    private static IEnumerable<(string Key, string Value)> Answered(ReleaseAnswers answers)
    {
        (string Key, string? Value)[] all =
        [
            ("release.owner", answers.Owner),
            ("release.evidence", answers.Evidence),
            ("release.managed", answers.Managed),
            ("release.letter", answers.Letter),
            ("release.check", answers.Check),
            ("release.data", answers.Data),
            ("release.dataWhere", answers.DataWhere),
            ("release.dataReopened", YesNo(answers.DataReopened)),
            ("release.encryption", answers.Encryption),
            ("release.locks", answers.Locks),
            ("release.erased", answers.Erased),
            ("release.erasedVerified", YesNo(answers.ErasedVerified)),
        ];
        return all.Where(a => a.Value is not null).Select(a => (a.Key, a.Value!));
    }

    /// <summary>
    /// Saved data counts only when it was opened again somewhere; and nothing that erases is done while its fate is open.
    /// </summary>
    private static void Check(ReleaseAnswers answers, Dossier known)
    {
        if (
            answers.Data == "saved"
            && (
                (answers.DataWhere ?? known.Word("release.dataWhere")) is null
                || (YesNo(answers.DataReopened) ?? known.Word("release.dataReopened")) != "yes"
            )
        )
            throw new RefusedException(
                RefusalKind.Invalid,
                "The data counts as saved when it was opened again from where it lies.",
                "data",
                "“dataWhere” with the place, and “dataReopened” true."
            );
        var data = answers.Data ?? known.Word("release.data");
        if ((answers.Check == "reset" || answers.Erased is not null) && data is null or "asked")
            throw new RefusedException(
                RefusalKind.Conflict,
                "The question of the data is open, and this erases.",
                answers.Erased is null ? "check" : "erased",
                "The owner's decision on the data first: not-wanted, saved or drive-kept."
            );
    }

    private static string? YesNo(bool? answer) =>
        answer switch
        {
            true => "yes",
            false => "no",
            null => null,
        };

    private static ReleaseSheet Show(MachineStanding standing, Shop shop)
    {
        var (facts, tag) = (standing.Dossier, standing.Machine.Tag);
        StartStop[] stops = [.. StartRules.Of(facts, standing.Release)];
        return new ReleaseSheet(
            tag,
            standing.Release.Outcome,
            ReleaseCheck.Next(facts),
            [.. facts.Facts.Where(f => f.Key.StartsWith("release.", StringComparison.Ordinal))],
            stops,
            stops.Length == 0,
            facts.Word("release.managed") is "claimed" or "waiting"
                ? ReleaseLetter.Write(facts, tag, shop.Name, shop.Today)
                : null
        );
    }
}
