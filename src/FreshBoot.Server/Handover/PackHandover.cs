using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using FreshBoot.Core.Handover;
using FreshBoot.Data;
using FreshBoot.Data.Dossiers;
using FreshBoot.Data.Intake;
using FreshBoot.Data.Runs;
using FreshBoot.Server.Dossiers;
using Microsoft.Extensions.Options;
using JsonOptions = Microsoft.AspNetCore.Http.Json.JsonOptions;

namespace FreshBoot.Server.Handover;

/// <summary>
/// Packs the whole record of a machine that may leave: the sheet, its facts before and after, the run with its chain of events, the
/// files of its probes, its photographs, what was done with the data. <c>sha256sum -c SHA256SUMS</c> verifies it.
/// </summary>
internal sealed class PackHandover(
    MakeHandover handover,
    MachineStore machines,
    RunStore runs,
    PhotoStore photos,
    DataFolder folder,
    OwnerLanguages languages,
    Shop shop,
    IOptions<JsonOptions> json
)
{
    private const string Sums = "SHA256SUMS";

    /// <summary>The ZIP, as a file that goes when it is closed.</summary>
    /// <exception cref="RefusedException">Something of the machine is still open.</exception>
    public async Task<Stream> DoAsync(string tag, CancellationToken stop)
    {
        var sheet = await handover.MakeAsync(tag, stop);
        var machine = await machines.GetAsync(tag, stop);
        // The sheet is made of the latest run, so there is one.
        var run = (await runs.LatestOfAsync(machine.Tag, stop))!;
        Directory.CreateDirectory(folder.Work);
        var file = new FileStream(
            Path.Combine(folder.Work, $"{Guid.NewGuid():N}.zip"),
            new FileStreamOptions
            {
                Mode = FileMode.CreateNew,
                Access = FileAccess.ReadWrite,
                Options = FileOptions.DeleteOnClose | FileOptions.Asynchronous,
            }
        );
        try
        {
            var sums = new StringBuilder();
            using (var zip = new ZipArchive(file, ZipArchiveMode.Create, leaveOpen: true))
            {
                void Put(string name, ReadOnlySpan<byte> content)
                {
                    using (var entry = zip.CreateEntry(name, CompressionLevel.Fastest).Open())
                        entry.Write(content);
                    if (name != Sums)
                        sums.Append($"{Convert.ToHexStringLower(SHA256.HashData(content))}  {name}\n");
                }
                void PutText(string name, string text) => Put(name, Encoding.UTF8.GetBytes(text));
                void PutJson<T>(string name, T value) =>
                    Put(name, JsonSerializer.SerializeToUtf8Bytes(value, Readable(json.Value.SerializerOptions)));

                var owners = OwnerSheet.Of(sheet, languages.Of(sheet.Language), shop.Name, shop.Calendar);
                PutText("handover.html", HandoverPage.Of(owners));
                Put("handover.pdf", HandoverPdf.Of(owners, languages.Of(sheet.Language)));
                PutJson("owner.json", owners);
                PutJson("handover.json", sheet);
                PutJson("facts-before.json", run.Readings);
                PutJson("facts-after.json", machine.Readings);
                PutJson("run.json", run);
                var treated = handover.DataOf(machine, run);
                var certificate = treated.Certificate(
                    languages.Of(treated.Language),
                    shop.Name,
                    shop.Today,
                    shop.Calendar
                );
                PutText("data-treatment.html", HandoverPage.Of(certificate));
                Put("data-treatment.pdf", HandoverPdf.Of(certificate, languages.Of(certificate.Language)));
                PutJson("data-treatment.json", treated);
                var number = 0;
                foreach (var (name, sha256) in await machines.ProbeFilesAsync(machine.Tag, stop))
                    Put(
                        $"probes/{++number:000}-{Plain(name)}",
                        await File.ReadAllBytesAsync(folder.PathOf(sha256), stop)
                    );
                foreach (var photo in await photos.ListAsync(machine.Tag, stop))
                    Put(
                        $"photos/{photo.Id}-{Plain(photo.Note)}.{Plain(photo.MediaType.Split('/')[^1])}",
                        await File.ReadAllBytesAsync(folder.PathOf(photo.Sha256), stop)
                    );
                PutText("README.txt", ReadMe(machine.Tag, sheet.Record));
                PutText(Sums, sums.ToString());
            }
            file.Position = 0;
            return file;
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
    }

    private static JsonSerializerOptions Readable(JsonSerializerOptions like) => new(like) { WriteIndented = true };

    /// <summary>A name that is one on every file system, whatever a machine called its file.</summary>
    private static string Plain(string name) =>
        string.Concat(name.Select(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '-' or '_' ? c : '_').Take(80));

    private static string ReadMe(string tag, SealedRecord record) =>
        $"""
            The record of {tag}.

            sha256sum -c {Sums}     verifies every file.
            run.json                the run: its route, its steps and its events. Each event carries the SHA-256 over the hash
                                    before it and all that it says, the first over the run's own row; docs/runs.md tells the form.
                                    It has {record.Events} events and ends with {record.Head}.
                                    {(
                record.RowSealed
                    ? "Route, sheet and dossier are sealed with it."
                    : "Made by a version that sealed events only: route, sheet and dossier are not."
            )}
                                    That shows a record that was changed after this was packed. It does not show
                                    whether what was told to it was true.
            facts-before.json       what was known when the run began
            facts-after.json        what is known now
            probes/, photos/        as they came in

            """;
}
