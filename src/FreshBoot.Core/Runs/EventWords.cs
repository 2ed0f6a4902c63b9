namespace FreshBoot.Core.Runs;

/// <summary>What an event of a run says to whoever reads it, under its step and in the log of the machine.</summary>
public static class EventWords
{
    /// <summary>In words; null where the step itself shows it, as it does that it is done.</summary>
    public static string? Of(RunEvent e) =>
        e.Kind switch
        {
            RunEventKinds.Note => Text(e),
            RunEventKinds.Stopped => Text(e) is { Length: > 0 } seen ? $"It stopped: {seen}" : "It stopped.",
            RunEventKinds.Resumed => "It went on.",
            RunEventKinds.Paused => $"Laid aside: {Text(e)}",
            RunEventKinds.Handed => $"Handed on to {e.Data.GetValueOrDefault("to")}.",
            RunEventKinds.Undone => "Taken back to here.",
            RunEventKinds.Edited => $"Changed the words: {Text(e)}",
            RunEventKinds.GivenUp => $"Given up: {Text(e)}",
            RunEventKinds.Found => $"Found: {e.Data.GetValueOrDefault(MendStep.Cause)}"
                + (Text(e) is { Length: > 0 } why ? $" ({why})" : ""),
            RunEventKinds.Accepted => $"Accepted as it is, {e.Data.GetValueOrDefault(RunRules.LineKey)}: {Text(e)}",
            _ => null,
        };

    /// <summary>The same with what a step shows of itself: that it was done, left out, tried, and what came of it.</summary>
    public static string Whole(RunEvent e) =>
        Of(e)
        ?? e.Kind switch
        {
            RunEventKinds.Done => "Done"
                + (e.Data.TryGetValue("outcome", out var outcome) ? $", otherwise: {outcome}" : "")
                + (e.Data.TryGetValue("worked", out var worked) ? $"; what worked: {worked}" : "")
                + (e.Data.ContainsKey(RunRules.InOne) ? ", said in one with the other lines of its stop" : "")
                + (e.Data.TryGetValue("despite", out var despite) ? $"; all the same, because: {despite}" : "")
                + ".",
            RunEventKinds.Begun => "It has begun.",
            RunEventKinds.Output => "What it printed was brought.",
            RunEventKinds.Skipped => $"Left out: {Text(e)}",
            RunEventKinds.Deviated => $"Done otherwise: {Text(e)}",
            RunEventKinds.Photo => "A photograph.",
            RunEventKinds.Tried => $"Did not help: {e.Data.GetValueOrDefault("what")}",
            _ => e.Kind,
        };

    /// <summary>Whether it only says that the sheet went on as written.</summary>
    public static bool IsMinor(RunEvent e) =>
        e.Kind is RunEventKinds.Begun or RunEventKinds.Output
        || (e.Kind == RunEventKinds.Done && !e.Data.ContainsKey("outcome") && !e.Data.ContainsKey("despite"));

    private static string? Text(RunEvent e) => e.Data.GetValueOrDefault("text");
}
