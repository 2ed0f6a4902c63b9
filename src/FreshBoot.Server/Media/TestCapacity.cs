using System.Security.Cryptography;
using FreshBoot.Core.Media;
using FreshBoot.Data.Jobs;
using FreshBoot.Data.Media;
using FreshBoot.Server.Hosting;
using FreshBoot.Server.Jobs;

namespace FreshBoot.Server.Media;

/// <summary>Finds the true size of a medium by stamped blocks, in the background; it erases it.</summary>
internal sealed class TestCapacity(MediumStore media, JobRunner jobs)
{
    /// <summary>Some thousands of stamps: enough to find the size to a small part, few enough not to take a night.</summary>
    private const int Stamps = 4096;
    private const long WidestStep = 1 << 20;

    public async Task<JobSheet> DoAsync(int id, CapacityIn test, CancellationToken stop)
    {
        // All that can be refused is refused before the medium is marked.
        var by = Given.Text(test.By, "by", 60);
        var medium = await media.GetAsync(id, stop);
        WriteMedium.CheckLabel(test.Label, medium);
        if (medium.Kind is not (nameof(MediumKind.Stick) or nameof(MediumKind.Card)))
            throw new RefusedException(
                RefusalKind.Conflict,
                "Discs and files are as large as they are.",
                "id",
                "A stick or a card."
            );
        await media.BeginAsync(id, "Its capacity is being tested: nothing is on it.", null, stop);
        try
        {
            return await jobs.BeginAsync(
                new JobWish(JobKind.Capacity, $"Test the capacity of {medium.Label}", by, Medium: id),
                (working, running) => RunAsync(working, medium, running),
                why => BrokenAsync(id, $"{why} The test erased what was on it."),
                CancellationToken.None
            );
        }
        catch
        {
            await BrokenAsync(id, "The test did not begin.");
            throw;
        }
    }

    private Task BrokenAsync(int id, string why) => media.SetAsync(id, "unusable", why, null, verified: false);

    private async Task<(string, JobResult)> RunAsync(
        JobRunner.Working working,
        MediumRow medium,
        CancellationToken stop
    )
    {
        using var stick = WriteMedium.Plug(medium, media);
        var step = Math.Min(
            Math.Max(
                CapacityTest.Block,
                (medium.SizeBytes / Stamps + CapacityTest.Block - 1) / CapacityTest.Block * CapacityTest.Block
            ),
            WidestStep
        );
        var found = CapacityTest.Run(
            stick,
            step,
            BitConverter.ToUInt64(RandomNumberGenerator.GetBytes(8)),
            p => working.Progress(p, p < 0.5 ? "Stamps are written." : "Stamps are read back."),
            stop
        );
        await media.MeasuredAsync(
            medium.Id,
            found.TrueBytes,
            found.Manner == "sound" ? "blank" : "unusable",
            found.Says
        );
        return (found.Says, new JobResult(Capacity: found));
    }
}
