using System.Text.Json.Serialization;

namespace FreshBoot.Core.Firmware;

/// <summary>What was done to a firmware chip, or said of it.</summary>
[JsonConverter(typeof(CamelCaseNames<ChipDeed>))]
public enum ChipDeed
{
    /// <summary>It was read from its first byte to its last.</summary>
    Read,

    /// <summary>What was read was stored elsewhere, read again there, and is equal.</summary>
    Backup,

    /// <summary>Name and revision were read off the board, and are on the support list.</summary>
    Board,

    /// <summary>The image that shall be written was checked against the chip.</summary>
    Image,

    /// <summary>The machine runs on mains.</summary>
    Mains,

    /// <summary>An external programmer is clipped on; mains and battery are off.</summary>
    Programmer,

    /// <summary>Writing began. From here on nobody may say that it is whole until it was read back.</summary>
    Begun,

    /// <summary>It was written, read back and is equal.</summary>
    Written,

    /// <summary>Writing ended in the middle, or what was read back differs.</summary>
    Failed,

    /// <summary>The backup was written back, read back and is equal.</summary>
    Restored,

    /// <summary>It was read once more and compared with what it should hold.</summary>
    Verified,

    /// <summary>The records were taken from a back-up: what has been done to it since is in none of them.</summary>
    Doubted,

    /// <summary>After a doubt it was read, and what it holds is its maker's: it is equal to the backup, or a named person says so of a content that nothing else explains.</summary>
    LookedMaker,

    /// <summary>After a doubt it was read, and it holds a replacement that the shop knows.</summary>
    LookedReplaced,

    /// <summary>After a doubt it was read, and it holds something that nobody here knows.</summary>
    LookedStrange,
}

/// <summary>One thing that happened to a chip.</summary>
/// <param name="Deed">What.</param>
/// <param name="At">When.</param>
/// <param name="By">Who.</param>
/// <param name="Says">In a sentence.</param>
/// <param name="Sha256">SHA-256 of the bytes that it is about.</param>
/// <param name="RomId">The image on the shelf that it is about.</param>
/// <param name="PowerLost">Of a failure: whether the power went, so that the machine no longer runs.</param>
/// <param name="NotProved">Of an image of which nobody knows for which board it is: the reason for which it is taken all the same, or, where it was found on the chip, that nobody knows.</param>
public sealed record ChipEvent(
    ChipDeed Deed,
    DateTimeOffset At,
    string By,
    string Says,
    string? Sha256 = null,
    int? RomId = null,
    bool PowerLost = false,
    string? NotProved = null
);

/// <summary>What is on a chip, as far as it was read back.</summary>
[JsonConverter(typeof(CamelCaseNames<ChipContent>))]
public enum ChipContent
{
    /// <summary>What its maker left on it.</summary>
    Maker,

    /// <summary>The replacement, read back and equal.</summary>
    Replaced,

    /// <summary>Half of something: the machine does not start.</summary>
    Broken,

    /// <summary>Nobody knows: the records are older than the chip may be.</summary>
    Unknown,
}

/// <summary>Something that has to hold before a chip is written.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Says">What it is.</param>
/// <param name="Holds">Whether it holds.</param>
/// <param name="Todo">What to do where it does not.</param>
public sealed record ChipCheck(string Id, string Says, bool Holds, string Todo);

/// <summary>How a chip stands: a fold of what happened to it.</summary>
/// <param name="Content">What is on it.</param>
/// <param name="LastRead">SHA-256 of the last read of the maker's content.</param>
/// <param name="EqualReads">How many of the last reads were equal.</param>
/// <param name="BackupRom">The backup on the shelf.</param>
/// <param name="BackupSha256">Its SHA-256.</param>
/// <param name="BoardMatched">Whether board and revision were matched.</param>
/// <param name="ImageRom">The image that was checked.</param>
/// <param name="Mains">Whether mains was confirmed since the last failure.</param>
/// <param name="Programmer">Whether an external programmer is clipped on.</param>
/// <param name="Dead">Whether the machine no longer runs, so that only a programmer reaches the chip.</param>
/// <param name="Holds">SHA-256 of what was read back last.</param>
/// <param name="ImageNotProved">Of the checked image: who takes it without knowing for which board it is, and why; null where that is known.</param>
/// <param name="NotProved">The same of what was written.</param>
/// <param name="Recorded">Of an unknown content: what the records say of it.</param>
/// <param name="Looked">Of an unknown content: SHA-256 of what was read when somebody looked.</param>
/// <param name="WrittenRom">The image on the shelf that was written last.</param>
public sealed record ChipState(
    ChipContent Content = ChipContent.Maker,
    string? LastRead = null,
    int EqualReads = 0,
    int? BackupRom = null,
    string? BackupSha256 = null,
    bool BoardMatched = false,
    int? ImageRom = null,
    bool Mains = false,
    bool Programmer = false,
    bool Dead = false,
    string? Holds = null,
    string? ImageNotProved = null,
    string? NotProved = null,
    ChipContent? Recorded = null,
    string? Looked = null,
    int? WrittenRom = null
)
{
    /// <summary>The state after these events. Writing that began and did not end leaves the chip broken, whoever pulled the plug.</summary>
    public static ChipState Of(IEnumerable<ChipEvent> events) =>
        events.Aggregate(new ChipState(), (s, e) => s.After(e));

    private static string InWords(ChipContent? content) =>
        content switch
        {
            ChipContent.Replaced => "the replacement",
            ChipContent.Broken => "half written",
            _ => "what its maker left on it",
        };

    private ChipState After(ChipEvent e) =>
        e.Deed switch
        {
            ChipDeed.Read => this with { EqualReads = e.Sha256 == LastRead ? EqualReads + 1 : 1, LastRead = e.Sha256 },
            ChipDeed.Backup => this with { BackupRom = e.RomId, BackupSha256 = e.Sha256 },
            ChipDeed.Board => this with { BoardMatched = true },
            ChipDeed.Image => this with
            {
                ImageRom = e.RomId,
                ImageNotProved = e.NotProved is { } reason ? $"{e.By}: {reason}" : null,
            },
            ChipDeed.Mains => this with { Mains = true, Programmer = false },
            ChipDeed.Programmer => this with { Programmer = true, Mains = false },
            // Whoever comes back to a chip that was left in the middle looks at its power again.
            ChipDeed.Begun => this with
            {
                Content = ChipContent.Broken,
                Holds = null,
                Mains = false,
                Programmer = false,
            },
            ChipDeed.Written => this with
            {
                Content = ChipContent.Replaced,
                Dead = false,
                Holds = e.Sha256,
                NotProved = ImageNotProved,
                WrittenRom = e.RomId,
            },
            ChipDeed.Restored => this with
            {
                Content = ChipContent.Maker,
                Dead = false,
                Holds = e.Sha256,
                NotProved = null,
            },
            ChipDeed.Failed => this with
            {
                Content = ChipContent.Broken,
                Dead = Dead || e.PowerLost,
                // Whatever fed it has to be looked at again.
                Mains = false,
                Programmer = false,
            },
            ChipDeed.Doubted => this with
            {
                Recorded = Content == ChipContent.Unknown ? Recorded : Content,
                Content = ChipContent.Unknown,
                Looked = null,
                // Reads of before say nothing of what is there now, and whoever comes back looks at board, image and power again.
                EqualReads = 0,
                LastRead = null,
                BoardMatched = false,
                ImageRom = null,
                Mains = false,
                Programmer = false,
            },
            ChipDeed.LookedMaker => this with
            {
                Content = ChipContent.Maker,
                Dead = false,
                Holds = e.Sha256,
                NotProved = null,
            },
            ChipDeed.LookedReplaced => this with
            {
                Content = ChipContent.Replaced,
                Dead = false,
                Holds = e.Sha256,
                // Who took it on is remembered where the records are of this very image.
                NotProved = e.NotProved is null || e.RomId != WrittenRom ? e.NotProved : NotProved ?? e.NotProved,
                WrittenRom = e.RomId,
            },
            ChipDeed.LookedStrange => this with { Content = ChipContent.Unknown, Looked = e.Sha256 },
            _ => this,
        };

    /// <summary>Whether the machine starts from it.</summary>
    public bool Starts => Content is ChipContent.Maker or ChipContent.Replaced;

    /// <summary>How it stands, in a sentence.</summary>
    public string Says =>
        Content switch
        {
            ChipContent.Maker => BackupRom is null
                ? "What its maker left on it; no backup yet."
                : "What its maker left on it; the backup is kept.",
            ChipContent.Replaced when NotProved is not null =>
                $"The replacement, read back and equal. Not proved that it is for this board ({NotProved}).",
            ChipContent.Replaced => "The replacement, read back and equal.",
            ChipContent.Unknown when Looked is not null =>
                $"It holds something that nobody here knows. The records say: {InWords(Recorded)}.",
            ChipContent.Unknown =>
                $"Unknown: look again. The records come from a back-up and say: {InWords(Recorded)}.",
            _ when Dead =>
                "Half written, and the power went: the machine does not start. An external programmer writes the backup back.",
            _ => "Half written: as long as the machine runs the backup can be written back. Do not restart it.",
        };
}

/// <summary>In which order a chip is worked on. The same rules hold for the page, the API and the jobs.</summary>
public static class ChipRules
{
    /// <summary>What has to hold before it is written, in the order of the work.</summary>
    public static IReadOnlyList<ChipCheck> BeforeWrite(ChipState state) =>
        [
            new(
                "reads",
                "Two reads, one after the other, are equal",
                state.BackupRom is not null || state.EqualReads >= 2,
                state.EqualReads == 0 ? "Read the chip." : "Read it once more, and go on until two are equal."
            ),
            new(
                "backup",
                "The backup is stored, read again and equal",
                state.BackupRom is not null,
                "Back it up onto a medium that is not in the machine."
            ),
            new(
                "board",
                "Name and revision on the board are on the support list",
                state.BoardMatched,
                "Read the print on the board. Not listed is not supported."
            ),
            new(
                "image",
                "The image is for this board, of the chip's size, its sums are right, and what has to stay is in it",
                state.ImageRom is not null,
                "Choose the image that shall be written."
            ),
            Power(state),
        ];

    /// <summary>What has to hold before the backup is written back.</summary>
    public static IReadOnlyList<ChipCheck> BeforeRestore(ChipState state) =>
        [
            new(
                "backup",
                "The backup is stored, read again and equal",
                state.BackupRom is not null,
                "There is no way back without one."
            ),
            Power(state),
        ];

    private static ChipCheck Power(ChipState state) =>
        state.Dead
            ? new(
                "power",
                "An external programmer is clipped on, mains and battery are off",
                state.Programmer,
                "Take the adapter out, unplug the battery, discharge yourself, and clip the programmer on."
            )
            : new(
                "power",
                "Mains is on, and nothing can pull it",
                state.Mains || state.Programmer,
                "Connect the adapter and see its light. A chip that loses power while it is written is dead."
            );

    /// <summary>Refuses a deed that comes out of order.</summary>
    /// <exception cref="RefusedException">Something that comes before it is missing; the first such is told.</exception>
    public static void Check(ChipState state, ChipDeed deed)
    {
        if (deed == ChipDeed.Programmer && state is { Dead: false, Content: not ChipContent.Broken })
            throw Refuse(
                "The machine still starts: its chip is written from the running system.",
                "Confirm mains instead."
            );
        if (deed == ChipDeed.Mains && state.Dead)
            throw Refuse(
                "The machine does not run any more: with mains on, a programmer kills chip and board.",
                "Take mains and battery off, and confirm the programmer."
            );
        if (deed is ChipDeed.Doubted)
            return;
        if (deed is ChipDeed.LookedMaker or ChipDeed.LookedReplaced or ChipDeed.LookedStrange)
        {
            if (state.Content != ChipContent.Unknown)
                throw Refuse("What it holds is known.", "Verify it.");
            return;
        }
        if (
            state.Content == ChipContent.Unknown
            && deed is not (ChipDeed.Mains or ChipDeed.Programmer or ChipDeed.Restored)
        )
            throw Refuse("Nobody knows what it holds: the records come from a back-up.", "Look at it first.");
        if (deed is ChipDeed.Read && state.Content != ChipContent.Maker)
            throw Refuse(
                "What is on it is not its maker's: a read of it is no backup.",
                "Verify it, or write the backup back."
            );
        if (deed == ChipDeed.Backup)
        {
            if (state.Content != ChipContent.Maker)
                throw Refuse("What is on it is not its maker's any more.", "The backup that is kept.");
            if (state.BackupRom is not null)
                throw Refuse("Its backup is kept: no later read takes its place.", "The backup that is kept.");
            if (state.EqualReads < 2)
                throw Refuse("There are no two equal reads yet.", BeforeWrite(state)[0].Todo);
        }
        var checks = deed switch
        {
            ChipDeed.Written => BeforeWrite(state),
            ChipDeed.Restored => BeforeRestore(state),
            _ => [],
        };
        if (checks.FirstOrDefault(c => !c.Holds) is { } missing)
            throw Refuse($"Not yet: {char.ToLowerInvariant(missing.Says[0])}{missing.Says[1..]}.", missing.Todo);
    }

    private static RefusedException Refuse(string what, string wanted) =>
        new(RefusalKind.Conflict, what, "chip", wanted);
}
