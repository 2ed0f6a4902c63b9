using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Release;

/// <summary>An answer to a question of the release check: a button, and the fact that it enters.</summary>
/// <param name="Says">What the button says.</param>
/// <param name="Key">The fact key.</param>
/// <param name="Value">The value.</param>
public sealed record ReleaseAnswer(string Says, string Key, string Value);

/// <summary>The paper that belongs to an answer: a field for what it says, and a photograph of it.</summary>
/// <param name="Says">What the field is called.</param>
/// <param name="Example">What somebody might write there.</param>
/// <param name="Key">The fact key.</param>
public sealed record ReleasePaper(string Says, string Example, string Key);

/// <summary>What the release check asks or says next.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Asks">The question or instruction.</param>
/// <param name="Note">What helps to answer it.</param>
/// <param name="Caution">What could be lost; shown before the answers.</param>
/// <param name="Stops">Whether work ends here until somebody else has acted.</param>
/// <param name="Answers">The answers.</param>
/// <param name="Paper">The paper that is asked for with it; null for none.</param>
public sealed record ReleaseQuestion(
    string Id,
    string Asks,
    string? Note,
    string? Caution,
    bool Stops,
    IReadOnlyList<ReleaseAnswer> Answers,
    ReleasePaper? Paper = null
);

/// <summary>
/// The way to leave given: one question at a time, in an order that loses nothing. The check for an organisation's hold
/// resets the machine, and so it comes after the data and the locks. Never a way round a lock.
/// </summary>
public static class ReleaseCheck
{
    private sealed record Stage(Func<Dossier, bool> Open, ReleaseQuestion Question);

    private static bool Held(Dossier facts) => facts.Word("release.managed") != "free";

    /// <summary>The next question, or null when leave is given and nothing stands in the way.</summary>
    public static ReleaseQuestion? Next(Dossier facts) => Stages.FirstOrDefault(s => s.Open(facts))?.Question;

    /// <summary>Whether the owner wants what is on the machine, as far as anybody asked.</summary>
    private static bool DataWanted(Dossier facts) => facts.Word("release.data") != "not-wanted";

    /// <summary>Whether the outcome was noted after the machine was last connected, not before.</summary>
    private static bool Looked(Dossier facts) =>
        facts.Find("release.managed") is { } managed
        && facts.Find("release.check") is { } check
        && managed.TakenAt >= check.TakenAt;

    private static readonly Stage[] Stages =
    [
        new(
            f => f.Word("release.owner") == "refused",
            new(
                "refused",
                "The owner refuses: give the machine back",
                "Nothing is done to it. If the owner thinks again, note it here.",
                null,
                true,
                [new("Leave is given now", "release.owner", "given")]
            )
        ),
        new(
            f => f.Word("release.owner") != "given",
            new(
                "owner",
                "May we work on it?",
                "Ask whoever owns it; note the slip, receipt or letter that shows it.",
                null,
                false,
                [
                    new("Leave given", "release.owner", "given"),
                    new("Asked, no answer yet", "release.owner", "asked"),
                    new("Refused", "release.owner", "refused"),
                ],
                new("Slip, receipt or letter", "slip 114, in the folder of November", "release.evidence")
            )
        ),
        new(
            f => f.Word("release.data") is null or "asked",
            new(
                "data",
                "Is anything on it still wanted?",
                "The owner decides. Taking the old drive out and keeping it is a safe backup.",
                "Ask before anything that erases: the check for an organisation further down does.",
                false,
                [
                    new("Nothing is wanted", "release.data", "not-wanted"),
                    new("Saved, and opened again to check", "release.data", "saved"),
                    new("The old drive is kept", "release.data", "drive-kept"),
                    new("Asked, no answer yet", "release.data", "asked"),
                ]
            )
        ),
        new(
            f => f.Word("release.encryption") is null,
            new(
                "encryption",
                "Is the drive encrypted?",
                "Look at the drive in the running system. See the recovery key with your own eyes.",
                "A cleared security chip or a firmware change locks an encrypted drive for good.",
                false,
                [
                    new("Not encrypted", "release.encryption", "none"),
                    new("Encrypted, recovery key seen", "release.encryption", "key-seen"),
                    new("Encrypted, no recovery key", "release.encryption", "key-missing"),
                ]
            )
        ),
        new(
            f => f.Word("release.encryption") == "key-missing" && DataWanted(f),
            new(
                "key",
                "Get the recovery key from the owner first",
                "Without it the wanted data is lost at the first change of firmware or drive.",
                null,
                true,
                [
                    new("Recovery key seen", "release.encryption", "key-seen"),
                    new("The owner gives the data up", "release.data", "not-wanted"),
                ]
            )
        ),
        new(
            f => f.Word("release.managed") == "claimed",
            new(
                "claimed",
                "Stop: an organisation still holds it",
                "Write to it with both serial numbers; the message is ready below. Only it can release the machine.",
                null,
                true,
                [new("It has released the machine: look again", "release.managed", "waiting")],
                new("Their answer", "letter of 20 November, signed by the school’s office", "release.letter")
            )
        ),
        new(
            f => f.Word("release.locks") is "firmware-password" or "activation-lock",
            new(
                "locked",
                "Ask the owner to take the lock off",
                "The owner, or the maker on proof of ownership. We do not go round it.",
                null,
                true,
                [new("The owner has taken it off", "release.locks", "none")]
            )
        ),
        new(
            f => f.Word("release.locks") is null,
            new(
                "locks",
                "Does anything lock it?",
                "Open the firmware set-up, and start it once: note a password or an account that it asks for.",
                null,
                false,
                [
                    new("Nothing", "release.locks", "none"),
                    new("A firmware password", "release.locks", "firmware-password"),
                    new("Somebody’s account", "release.locks", "activation-lock"),
                ]
            )
        ),
        new(
            f => Held(f) && f.Word("release.check") is null,
            new(
                "reset",
                "Reset it to its first start",
                "From the start menu or the maker’s key. A machine that starts without any account is free already.",
                "This erases the machine.",
                false,
                [
                    new("It is reset", "release.check", "reset"),
                    new("It needs no account: free", "release.managed", "free"),
                ]
            )
        ),
        new(
            f => Held(f) && f.Word("release.check") == "reset",
            new(
                "connect",
                "Connect it, and watch its first pages",
                "A wired network is surest. Signs: a page with an organisation’s name, no guest use, an unlocked start refused.",
                null,
                false,
                [new("Connected and watched", "release.check", "connected")]
            )
        ),
        new(
            f => f.Word("release.managed") == "waiting" && Looked(f),
            new(
                "wait",
                "Wait an hour, then reset it again",
                "The organisation has let go, and the machine has not heard of it yet.",
                "Resetting erases the machine again.",
                false,
                [
                    new("It is reset again", "release.check", "reset"),
                    new("It is free now", "release.managed", "free"),
                    new("It claims itself again", "release.managed", "claimed"),
                ]
            )
        ),
        new(
            Held,
            new(
                "look",
                "What did it ask for?",
                "Only what stands on the screen counts.",
                null,
                false,
                [
                    new("Nothing of an organisation: free", "release.managed", "free"),
                    new("Released, but it has not heard", "release.managed", "waiting"),
                    new("An organisation’s sign-in", "release.managed", "claimed"),
                ]
            )
        ),
    ];
}
