using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Firmware;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Firmware;
using FreshBoot.Data.Jobs;
using FreshBoot.Formats.Firmware;
using FreshBoot.Server.Dossiers;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;
using FreshBoot.Workshop.Simulated;

namespace FreshBoot.Server.Firmware;

/// <summary>
/// Reads, backs up, writes, verifies and restores the firmware chip of a machine, in the order that <see cref="ChipRules"/> knows.
/// The chips are simulated; the order, the records and the bytes are real.
/// </summary>
internal sealed class WorkOnChip(
    ChipStore chips,
    RomStore roms,
    MachineStore machines,
    Shop shop,
    JobRunner jobs,
    DataFolder folder,
    TimeProvider clock
)
{
    private const int Piece = 64 * 1024;
    private const int UsualBytes = 4 << 20;
    private const string Mark = "its firmware chip";
    private const string BoardProof = "firmware.boardProof";
    private readonly ConcurrentDictionary<int, byte> _busy = new();

    /// <summary>Puts the chip of a machine on the bench.</summary>
    public async Task<ChipRow> AddAsync(ChipIn wish, CancellationToken stop)
    {
        var tag = Given.Tag(wish.Tag, "tag");
        var facts = shop.Dossier(await machines.GetAsync(tag, stop));
        var size = (int)(
            shop.Catalogue.Boards.FirstOrDefault(b => b.Id == facts.Word("identity.board"))?.ChipBytes ?? 0
        );
        size = size > 0 ? size : UsualBytes;
        folder.CheckRoom(size);
        var serial = facts.Word("identity.serial") ?? tag;
        var network = SHA256.HashData(Encoding.UTF8.GetBytes(serial));
        // Its content is there before it is said to be on the bench; of two at once the second is refused, and writes the same.
        var path = chips.PathOf(tag);
        if (!File.Exists(path))
        {
            var bytes = SimulatedRom.Make(
                size,
                $"{facts.Word("identity.board") ?? "BOARD"} chip",
                "7.31 of 2019-04",
                $"serial={serial}\nnetwork=02:{string.Join(':', network.Take(5).Select(b => $"{b:x2}"))}\n"
            );
            await WholeFile.WriteAsync(path, file => file.WriteAsync(bytes, stop).AsTask());
        }
        return await chips.AddAsync(
            new ChipRow
            {
                Tag = tag,
                SizeBytes = size,
                Faults = JsonSerializer.Serialize(wish.Faults ?? new ChipFaults(), JsonSerializerOptions.Web),
                Events = "[]",
            },
            stop
        );
    }

    /// <summary>Keeps what a person says that they saw or did.</summary>
    public async Task<ChipRow> ConfirmAsync(int id, ChipWord word, CancellationToken stop)
    {
        var row = await chips.GetAsync(id, stop);
        var by = Given.Text(word.By, "by", 60);
        switch (word.What)
        {
            case ChipWhat.Mains:
                return await SayAsync(row, ChipDeed.Mains, by, "Mains is on.");
            case ChipWhat.Programmer:
                return await SayAsync(
                    row,
                    ChipDeed.Programmer,
                    by,
                    "An external programmer is clipped on, mains and battery are off."
                );
            case ChipWhat.Board:
                var board = await BoardAsync(row, stop);
                BoardRules.Match(board, word.Board, word.Revision);
                return await SayAsync(row, ChipDeed.Board, by, $"The board says {board.Id}, revision {word.Revision}.");
            case ChipWhat.Maker:
                if (by == Given.Nobody || string.IsNullOrWhiteSpace(word.Reason))
                    throw new RefusedException(
                        RefusalKind.Invalid,
                        "That nobody has written it since is a named person's word, with how they know.",
                        by == Given.Nobody ? "by" : "reason",
                        "A name, and a reason."
                    );
                var reason = Given.Text(word.Reason, "reason", 300);
                var taken = await SayAsync(
                    row,
                    ChipDeed.LookedMaker,
                    by,
                    $"{by} says that it holds what its maker left on it: {reason}",
                    row.State.Looked,
                    check: s =>
                    {
                        ChipRules.Check(s, ChipDeed.LookedMaker);
                        if (s.Looked is null)
                            throw new RefusedException(
                                RefusalKind.Conflict,
                                "Nobody has looked yet.",
                                "chip",
                                "Look at it first: what is read is compared with all that is known."
                            );
                        if (s.BackupSha256 is not null)
                            throw new RefusedException(
                                RefusalKind.Conflict,
                                "There is a backup, and what is there differs from it.",
                                "chip",
                                "Write the backup back."
                            );
                    }
                );
                await ForgetProofAsync(row.Tag, by);
                return taken;
            default:
                // The hand takes a screw out; only the chip says whether it was the right one.
                var faults = FaultsOf(row);
                return await chips.SayAsync(
                    id,
                    null,
                    null,
                    JsonSerializer.Serialize(
                        faults.WrongScrews > 0
                            ? faults with
                            {
                                WrongScrews = faults.WrongScrews - 1,
                            }
                            : faults with
                            {
                                Protected = false,
                            },
                        JsonSerializerOptions.Web
                    )
                );
        }
    }

    /// <summary>Checks the image that shall be written, against board, chip and backup.</summary>
    /// <exception cref="RefusedException">It is another board's, or nobody takes on one of which the board is not known.</exception>
    public async Task<ChipRow> ChooseAsync(int id, ChipChoice choice, CancellationToken stop)
    {
        var row = await chips.GetAsync(id, stop);
        var rom = await roms.GetAsync(choice.RomId, stop);
        var by = Given.Text(choice.By, "by", 60);
        var (_, whose, board) = await MergedAsync(row, rom, stop);
        string? reason = null;
        if (!whose.IsProvedFor(board.Id))
        {
            if (by == Given.Nobody || string.IsNullOrWhiteSpace(choice.Reason))
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"{whose.Says} Another board's firmware leaves a machine that never starts again.",
                    by == Given.Nobody ? "by" : "reason",
                    "An image that names its board; or a named person who takes this one on, with the reason."
                );
            reason = Given.Text(choice.Reason, "reason", 300);
        }
        var age = RomAge.Beside(
            RomImage.Read(await roms.BytesAsync(rom, stop)),
            RomImage.Read(await roms.BytesAsync(await roms.GetAsync(row.State.BackupRom!.Value, stop), stop))
        );
        var keeps = board.Keeps.Count > 0 ? $", {string.Join(" and ", board.Keeps)} taken from the backup" : "";
        return await chips.SayAsync(
            id,
            new ChipEvent(
                ChipDeed.Image,
                clock.GetUtcNow(),
                by,
                string.Join(
                    ' ',
                    new[]
                    {
                        $"{rom.Name}: {row.SizeBytes} bytes as the chip, the sums of its volumes right{keeps}.",
                        whose.Says,
                        reason is null ? null : $"Not proved that it is for {board.Id}; taken all the same: {reason}",
                        age,
                    }.OfType<string>()
                ),
                rom.Sha256,
                rom.Id,
                NotProved: reason
            )
        );
    }

    /// <summary>Reads the chip from end to end.</summary>
    public Task<JobSheet> ReadAsync(int id, string by, CancellationToken stop) =>
        BeginAsync(
            id,
            ChipDeed.Read,
            by,
            "Read the chip",
            async (working, row, token) =>
            {
                var before = row.State;
                var bytes = ReadAll(row, working, token, out var faults);
                var sha256 = Hash(bytes);
                row = await SayAsync(row, ChipDeed.Read, by, "It was read.", sha256, faults: faults);
                return before.LastRead is not { } last ? $"Read: SHA-256 {sha256[..12]}. Read it once more."
                    : last == sha256 ? "Read: equal to the read before."
                    : "Read: it differs from the read before. Clean the contacts, and read until two are equal.";
            },
            stop
        );

    /// <summary>Reads the chip, stores what was read, reads that again and compares all of it.</summary>
    public Task<JobSheet> BackupAsync(int id, string medium, string by, CancellationToken stop)
    {
        medium = Given.Text(medium, "medium", 60);
        return BeginAsync(
            id,
            ChipDeed.Backup,
            by,
            $"Back the chip up onto {medium}",
            async (working, row, token) =>
            {
                var bytes = ReadAll(row, working, token, out var faults);
                if (Hash(bytes) != row.State.LastRead)
                {
                    await SayAsync(row, ChipDeed.Read, by, "It was read.", Hash(bytes), faults: faults);
                    throw new IOException("What was read differs from the two equal reads: nothing was stored.");
                }
                var rom = await roms.AddAsync(
                    bytes,
                    $"{row.Tag}, its chip as it was, {clock.GetUtcNow():yyyy-MM-dd}",
                    by,
                    null,
                    CancellationToken.None,
                    row.Tag
                );
                // What was stored counts only when it was read again.
                if (Hash(await roms.BytesAsync(rom, token)) != row.State.LastRead)
                    throw new IOException("The backup, read again, differs: store it on another medium.");
                await SayAsync(
                    row,
                    ChipDeed.Backup,
                    by,
                    $"Backed up onto {medium}, read again and equal.",
                    rom.Sha256,
                    rom.Id,
                    faults: faults
                );
                return $"Backed up onto {medium}, read again and equal.";
            },
            stop
        );
    }

    /// <summary>Erases and writes the chip with the checked image, and reads it back.</summary>
    public Task<JobSheet> WriteAsync(int id, string typed, string by, CancellationToken stop) =>
        BeginAsync(
            id,
            ChipDeed.Written,
            by,
            "Write the chip",
            async (working, row, token) =>
            {
                var rom = await roms.GetAsync(row.State.ImageRom!.Value, token);
                var (bytes, whose, board) = await MergedAsync(row, rom, token);
                // The list may have learned of the board since the image was checked.
                var proved = whose.IsProvedFor(board.Id);
                if (!proved && row.State.ImageNotProved is null)
                    throw new IOException($"{whose.Says} It is checked anew before it is written.");
                await ProgramAsync(
                    working,
                    row,
                    bytes,
                    ChipDeed.Written,
                    by,
                    $"{rom.Name} was written, read back and is equal.",
                    rom.Id
                );
                await KeepProofAsync(row.Tag, rom.Name, proved, by);
                await ReplacedAsync(row.Tag, board, rom.Name, by);
                return proved
                    ? "Written, read back and equal. The first start takes longer."
                    : "Written, read back and equal. Not proved that it is for this board: only a start shows it.";
            },
            stop,
            row => CheckTyped(typed, row)
        );

    /// <summary>Writes the backup back, and reads it back.</summary>
    public Task<JobSheet> RestoreAsync(int id, string typed, string by, CancellationToken stop) =>
        BeginAsync(
            id,
            ChipDeed.Restored,
            by,
            "Write the backup back",
            async (working, row, token) =>
            {
                var rom = await roms.GetAsync(row.State.BackupRom!.Value, token);
                var bytes = await roms.BytesAsync(rom, token);
                if (Hash(bytes) != row.State.BackupSha256)
                    throw new IOException("The backup is not what was stored: its SHA-256 differs. It is not written.");
                await ProgramAsync(
                    working,
                    row,
                    bytes,
                    ChipDeed.Restored,
                    by,
                    "The backup was written back, read back and is equal.",
                    rom.Id
                );
                await BackAsync(row.Tag, by);
                return "Restored: what its maker left on it is back, read back and equal.";
            },
            stop,
            row => CheckTyped(typed, row)
        );

    /// <summary>Reads the chip once more and compares it with what it should hold.</summary>
    public Task<JobSheet> VerifyAsync(int id, string by, CancellationToken stop) =>
        BeginAsync(
            id,
            ChipDeed.Verified,
            by,
            "Verify the chip",
            async (working, row, token) =>
            {
                var should =
                    row.State.Holds
                    ?? (row.State.Content == ChipContent.Maker ? row.State.BackupSha256 : null)
                    ?? throw new RefusedException(
                        RefusalKind.Conflict,
                        "Nobody knows what it should hold.",
                        "chip",
                        "A backup, or a write that ended."
                    );
                var sha256 = Hash(ReadAll(row, working, token, out var faults));
                if (sha256 != should)
                {
                    await SayAsync(row, null, by, "", faults: faults);
                    throw new IOException(
                        "It differs from what it should hold. Verify once more: where it differs again, write it back."
                    );
                }
                await SayAsync(row, ChipDeed.Verified, by, "Read once more, and equal.", sha256, faults: faults);
                return "Read once more, and equal.";
            },
            stop
        );

    /// <summary>
    /// Looks what a chip holds of which the records are not sure: reads it and compares it with the backup and every image on the shelf.
    /// </summary>
    public Task<JobSheet> LookAsync(int id, string by, CancellationToken stop) =>
        BeginAsync(
            id,
            ChipDeed.LookedStrange,
            by,
            "Look at the chip",
            async (working, row, token) =>
            {
                var state = row.State;
                var bytes = ReadAll(row, working, token, out var faults);
                var keeps = await KeepsAsync(row, bytes, token);
                var shelf = new List<ShelfRom>();
                foreach (var rom in await roms.ListAsync(token))
                    if (rom.Id != state.BackupRom && rom.SizeBytes == row.SizeBytes)
                        shelf.Add(new ShelfRom(rom.Id, rom.Name, await roms.BytesAsync(rom, token), rom.BackupOf));
                var look = ChipLook.Judge(bytes, Hash(bytes), state, shelf, keeps);
                // A replacement that the records do not know of is for this board only where that is known of the image.
                var found = look.Rom is { } id ? await roms.GetAsync(id, token) : null;
                var whose = found is null ? null : Whose(await roms.BytesAsync(found, token), found);
                var proved = whose?.IsProvedFor((await DossierAsync(row.Tag)).Word("identity.board") ?? "");
                await SayAsync(
                    row,
                    look.Deed,
                    by,
                    whose is null ? look.Says : $"{look.Says} {whose.Says}",
                    Hash(bytes),
                    look.Rom,
                    faults,
                    s => ChipRules.Check(s, look.Deed),
                    proved == false ? "nobody knows for which board it is" : null
                );
                if (look.Deed == ChipDeed.LookedMaker)
                {
                    await ForgetProofAsync(row.Tag, by);
                    await BackAsync(row.Tag, by);
                }
                else if (proved is { } known)
                {
                    await KeepProofAsync(row.Tag, found!.Name, known, by);
                    await ReplacedAsync(row.Tag, await BoardAsync(row, token), found.Name, by);
                }
                return look.Says;
            },
            stop
        );

    /// <summary>The areas that a write takes over from the backup, as the chip's own map names them.</summary>
    private async Task<IReadOnlyList<(long Offset, long Length)>> KeepsAsync(
        ChipRow row,
        byte[] bytes,
        CancellationToken stop
    )
    {
        var board = shop.Dossier(await machines.GetAsync(row.Tag, stop)).Word("identity.board");
        var listed = shop.Catalogue.Boards.FirstOrDefault(b => b.Id == board);
        var map = RomImage.Read(bytes).Map;
        return
        [
            .. (listed?.Keeps ?? [])
                .Select(name => map?.Areas.FirstOrDefault(a => a.Name == name))
                .OfType<FlashArea>()
                .Select(a => (a.Offset, a.Length)),
        ];
    }

    /// <summary>The listed board of the machine that a chip is of.</summary>
    /// <exception cref="RefusedException">It is not on the support list.</exception>
    public async Task<BoardEntry> BoardAsync(ChipRow row, CancellationToken stop) =>
        BoardRules.Listed(shop.Dossier(await machines.GetAsync(row.Tag, stop)), shop.Catalogue.Boards);

    private async Task<(byte[] Bytes, RomBoard Whose, BoardEntry Board)> MergedAsync(
        ChipRow row,
        RomRow rom,
        CancellationToken stop
    )
    {
        if (row.State.BackupRom is not { } backup)
            throw new RefusedException(
                RefusalKind.Conflict,
                "What has to stay is taken from the backup, and there is none yet.",
                "chip",
                "Read the chip twice, and back it up."
            );
        var (bytes, there) = (
            await roms.BytesAsync(rom, stop),
            await roms.BytesAsync(await roms.GetAsync(backup, stop), stop)
        );
        var board = await BoardAsync(row, stop);
        var whose = Whose(bytes, rom);
        return (ChipImage.Merge(bytes, there, row.SizeBytes, board, whose, Whose(there, null)), whose, board);
    }

    /// <summary>For which board an image is, as far as it says so itself or somebody did when it came in.</summary>
    private RomBoard Whose(byte[] image, RomRow? said) =>
        RomBoard.Of(image, RomImage.Read(image), shop.Catalogue.Boards, said?.Board, said?.BoardBy);

    /// <summary>Keeps in the dossier whether it is known that what is on the chip is for this board.</summary>
    private Task<StoredMachine> KeepProofAsync(string tag, string rom, bool proved, string by) =>
        machines.EnterAsync(
            tag,
            new Reading(
                BoardProof,
                FactValue.Of(proved ? "yes" : "no"),
                $"{Mark}: {rom}",
                Origin.Entered,
                clock.GetUtcNow(),
                by
            ),
            CancellationToken.None
        );

    /// <summary>
    /// From now on the machine is another one, for every question that is asked of it: it starts other systems, by other keys. Left by
    /// the work until a probe or a look at its menus says so.
    /// </summary>
    private async Task ReplacedAsync(string tag, BoardEntry board, string rom, string by)
    {
        var wanted = (await DossierAsync(tag)).Word("plan.firmware") ?? PayloadEntry.Full;
        if (
            shop.Catalogue.Payloads.FirstOrDefault(p => p.Id == wanted && board.Payloads.Contains(p.Id))
            is not { } payload
        )
            return;
        var source = $"{Mark}: {rom}";
        await machines.LeaveAsync(
            tag,
            [.. payload.Leaves.Select(l => new Reading(l.Key, l.Value, source, Origin.Work, clock.GetUtcNow(), by))],
            [],
            source,
            by,
            CancellationToken.None
        );
    }

    /// <summary>The maker's firmware is back: what the other one left holds no longer, and how it starts nobody has looked at since.</summary>
    private async Task BackAsync(string tag, string by)
    {
        const string Source = "the maker's firmware was written back";
        var facts = await DossierAsync(tag);
        if (facts.Word("firmware.payload") is null)
            return;
        await machines.LeaveAsync(
            tag,
            [new Reading("firmware.kind", FactValue.Of("locked"), Source, Origin.Work, clock.GetUtcNow(), by)],
            [
                .. shop
                    .Catalogue.Payloads.SelectMany(p => p.Leaves.Keys)
                    .Distinct(StringComparer.Ordinal)
                    .Where(k => k != "firmware.kind" && facts[k] is not null),
            ],
            Source,
            by,
            CancellationToken.None
        );
    }

    /// <summary>Of what its maker left on it nobody has to prove anything.</summary>
    private async Task ForgetProofAsync(string tag, string by)
    {
        if ((await DossierAsync(tag)).Find(BoardProof) is not null)
            await machines.UnsayAsync(tag, BoardProof, by, CancellationToken.None);
    }

    /// <summary>What is said where a chip is found protected when it is to be written.</summary>
    public const string StillProtected =
        "Write protection is still on: it was another screw, or the chip has not noticed yet. Nothing was written.";

    private async Task ProgramAsync(
        JobRunner.Working working,
        ChipRow row,
        byte[] bytes,
        ChipDeed deed,
        string by,
        string says,
        int rom
    )
    {
        var faults = FaultsOf(row);
        // Protection is looked at before anything is erased: then nothing has begun.
        if (faults.Protected)
            throw new IOException(StillProtected);
        // From here on it is half written, whatever happens to this server, and its maker's system starts no more.
        await MarkAsync(row.Tag, by);
        row = await SayAsync(
            row,
            ChipDeed.Begun,
            by,
            "Writing began.",
            Hash(bytes),
            check: s => ChipRules.Check(s, deed)
        );
        try
        {
            using var chip = new SimulatedChip(chips.PathOf(row.Tag), faults);
            try
            {
                for (var at = 0; at < bytes.Length; at += Piece)
                {
                    chip.Write(at, bytes.AsSpan(at, Math.Min(Piece, bytes.Length - at)));
                    working.Progress(0.7 * at / bytes.Length, "It is written. Leave the power alone.");
                }
                chip.Flush();
                var back = new byte[bytes.Length];
                for (var at = 0; at < back.Length; at += Piece)
                {
                    chip.Read(at, back.AsSpan(at, Math.Min(Piece, back.Length - at)));
                    working.Progress(0.7 + 0.3 * at / back.Length, "It is read back.");
                }
                if (!back.AsSpan().SequenceEqual(bytes))
                    throw new IOException("What was read back differs from what was written.");
            }
            finally
            {
                faults = chip.Faults;
            }
        }
        catch (IOException e)
        {
            await chips.SayAsync(
                row.Id,
                new ChipEvent(ChipDeed.Failed, clock.GetUtcNow(), by, e.Message, PowerLost: e is PowerLostException),
                null,
                JsonSerializer.Serialize(faults, JsonSerializerOptions.Web)
            );
            throw new IOException($"{e.Message} The machine is marked as one that does not start.", e);
        }
        await SayAsync(row, deed, by, says, Hash(bytes), rom, faults);
        if (deed == ChipDeed.Restored)
            await ForgetProofAsync(row.Tag, by);
        // That it starts again is shown by a start, not by a chip: the mark goes, and nothing is claimed in its place.
        if (deed == ChipDeed.Restored && (await DossierAsync(row.Tag)).Find("os.works")?.Source == Mark)
            await machines.UnsayAsync(row.Tag, "os.works", by, CancellationToken.None);
    }

    private async Task<Dossier> DossierAsync(string tag) =>
        shop.Dossier(await machines.GetAsync(tag, CancellationToken.None));

    /// <summary>Marks the machine as one whose system does not start: what comes next must not count on it.</summary>
    private Task<StoredMachine> MarkAsync(string tag, string by) =>
        machines.EnterAsync(
            tag,
            new Reading("os.works", FactValue.Of("no"), Mark, Origin.Entered, clock.GetUtcNow(), by),
            CancellationToken.None
        );

    private async Task<JobSheet> BeginAsync(
        int id,
        ChipDeed deed,
        string by,
        string about,
        Func<JobRunner.Working, ChipRow, CancellationToken, Task<string>> work,
        CancellationToken stop,
        Action<ChipRow>? check = null
    )
    {
        by = Given.Text(by, "by", 60);
        var row = await chips.GetAsync(id, stop);
        ChipRules.Check(row.State, deed);
        check?.Invoke(row);
        if (!_busy.TryAdd(id, 0))
            throw new RefusedException(
                RefusalKind.Conflict,
                "Somebody is working on this chip.",
                "chip",
                "Wait until that job has ended."
            );
        try
        {
            return await jobs.BeginAsync(
                new JobWish(JobKind.Chip, $"{about} of {row.Tag}", by, row.Tag, null, null),
                async (working, token) =>
                {
                    try
                    {
                        return (await work(working, await chips.GetAsync(id, token), token), new JobResult());
                    }
                    finally
                    {
                        _busy.TryRemove(id, out _);
                    }
                },
                _ =>
                {
                    // One that was cancelled before its turn came never ran.
                    _busy.TryRemove(id, out byte _);
                    return Task.CompletedTask;
                },
                CancellationToken.None
            );
        }
        catch
        {
            _busy.TryRemove(id, out _);
            throw;
        }
    }

    private byte[] ReadAll(ChipRow row, JobRunner.Working working, CancellationToken stop, out ChipFaults faults)
    {
        using var chip = new SimulatedChip(chips.PathOf(row.Tag), FaultsOf(row));
        var bytes = new byte[row.SizeBytes];
        for (var at = 0; at < bytes.Length; at += Piece)
        {
            stop.ThrowIfCancellationRequested();
            chip.Read(at, bytes.AsSpan(at, Math.Min(Piece, bytes.Length - at)));
            working.Progress((double)at / bytes.Length, "It is read.");
        }
        faults = chip.Faults;
        return bytes;
    }

    private Task<ChipRow> SayAsync(
        ChipRow row,
        ChipDeed? deed,
        string by,
        string says,
        string? sha256 = null,
        int? rom = null,
        ChipFaults? faults = null,
        Action<ChipState>? check = null,
        string? notProved = null
    ) =>
        chips.SayAsync(
            row.Id,
            deed is { } done
                ? new ChipEvent(done, clock.GetUtcNow(), by, says, sha256, rom, NotProved: notProved)
                : null,
            check ?? (deed is ChipDeed.Mains or ChipDeed.Programmer ? s => ChipRules.Check(s, deed.Value) : null),
            faults is null ? null : JsonSerializer.Serialize(faults, JsonSerializerOptions.Web)
        );

    private static void CheckTyped(string typed, ChipRow row)
    {
        if (!string.Equals(typed.Trim(), row.Tag, StringComparison.OrdinalIgnoreCase))
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{typed}” is not the tag of the machine whose chip is written.",
                "tag",
                "The tag on the casing, scanned or typed."
            );
    }

    private static ChipFaults FaultsOf(ChipRow row) =>
        JsonSerializer.Deserialize<ChipFaults>(row.Faults, JsonSerializerOptions.Web)!;

    private static string Hash(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));
}
