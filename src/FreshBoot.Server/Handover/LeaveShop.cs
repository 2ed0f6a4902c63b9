using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Upkeep;
using FreshBoot.Data.Dossiers;
using FreshBoot.Server.Hosting;

namespace FreshBoot.Server.Handover;

/// <summary>Whether a machine has left.</summary>
/// <param name="Left">Whether it has; no where it came back.</param>
/// <param name="By">Who says so.</param>
internal sealed record Leaving(bool Left, [property: Line(60)] string By);

/// <summary>A machine leaves the shop, or comes back. It leaves only with a hand-over, and leaves its bay free.</summary>
internal sealed class LeaveShop(MachineStore machines, MakeHandover handover, TimeProvider clock)
{
    /// <summary>Says that it left, or came back.</summary>
    /// <exception cref="RefusedException">Something of it is still open.</exception>
    public async Task<StoredMachine> SayAsync(string tag, Leaving leaving, CancellationToken stop)
    {
        var by = Given.Text(leaving.By, "by", 60);
        var word = new Reading(
            FactRegistry.Left,
            FactValue.Of(leaving.Left ? "yes" : "no"),
            leaving.Left ? "handed over" : "came back",
            Origin.Entered,
            clock.GetUtcNow(),
            by
        );
        if (leaving.Left)
        {
            await handover.MakeAsync(tag, stop);
            await machines.EnterAsync(tag, word, stop);
        }
        else
            await machines.EnterInsteadAsync(tag, word, MustHaveLeft, ComingBack.Unsaid, stop);
        return await machines.PlaceAsync(tag, null, swap: false, stop);
    }

    private static void MustHaveLeft(Dossier facts)
    {
        if (facts.Word(FactRegistry.Left) != "yes")
            throw new RefusedException(
                RefusalKind.Conflict,
                "It has not left.",
                "left",
                "A machine that was handed over and has left."
            );
    }
}
