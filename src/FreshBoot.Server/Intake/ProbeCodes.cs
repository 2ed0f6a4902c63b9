using System.Collections.Concurrent;
using System.Security.Cryptography;

namespace FreshBoot.Server.Intake;

/// <summary>A one-time code.</summary>
/// <param name="Code">The code.</param>
/// <param name="Tag">The machine that the bundle is for; null where it goes to the arrivals.</param>
/// <param name="RunCode">The code of the run step that the bundle shall carry; null for none.</param>
/// <param name="ExpiresAt">When it runs out.</param>
internal sealed record ProbeCode(string Code, string? Tag, string? RunCode, DateTimeOffset ExpiresAt);

/// <summary>
/// One-time codes for bundles from the bench network. They live in memory: a restart lets none of them in again, and whoever
/// waits asks for a fresh one.
/// </summary>
internal sealed class ProbeCodes(TimeProvider clock)
{
    /// <summary>How long a code may be used.</summary>
    public static readonly TimeSpan Life = TimeSpan.FromMinutes(30);

    // Without the letters and digits that are taken for one another when somebody types them: 32 signs, 5 bits each.
    private const string Signs = "abcdefghjkmnpqrstuvwxyz023456789";
    private const int Length = 13;
    private const int MostKnown = 10_000;

    /// <summary>Open codes of one stick: it reads one machine after the other.</summary>
    private const int MostOfStick = 12;
    private readonly ConcurrentDictionary<string, State> _codes = new(StringComparer.Ordinal);

    private sealed class State(ProbeCode code, int? stick)
    {
        public ProbeCode Code => code;
        public int? Stick => stick;
        public SemaphoreSlim Turn { get; } = new(1, 1);
        public bool Used { get; set; }
    }

    /// <summary>Makes a code of 65 bits.</summary>
    /// <param name="tag">The machine; null for the arrivals.</param>
    /// <param name="runCode">The code of the run step that the bundle shall carry.</param>
    /// <param name="stick">The stick that asks; null for a person. A stick that was lost must not use up what others need.</param>
    /// <exception cref="RefusedException">Too many were asked for.</exception>
    public ProbeCode Make(string? tag, string? runCode, int? stick)
    {
        var now = clock.GetUtcNow();
        // Codes that ran out are remembered for a while, so that a late comer is told so and not that it never was.
        foreach (var (old, state) in _codes.Where(c => c.Value.Code.ExpiresAt < now - TimeSpan.FromHours(12)))
            _codes.TryRemove(new KeyValuePair<string, State>(old, state));
        var open = stick is null ? 0 : _codes.Values.Count(s => s.Stick == stick && !s.Used && s.Code.ExpiresAt > now);
        if (open >= MostOfStick || _codes.Count >= MostKnown)
            throw new RefusedException(
                RefusalKind.Conflict,
                open >= MostOfStick ? "This stick has asked for too many codes." : "Too many codes were asked for.",
                "probe-codes",
                "Use those that are open, or try again later."
            );
        var code = new ProbeCode(RandomNumberGenerator.GetString(Signs, Length), tag, runCode, now + Life);
        _codes[code.Code] = new State(code, stick);
        return code;
    }

    /// <summary>Takes back every code that a stick has asked for: it was barred.</summary>
    public void Revoke(int stick)
    {
        foreach (var (code, state) in _codes.Where(c => c.Value.Stick == stick))
            _codes.TryRemove(new KeyValuePair<string, State>(code, state));
    }

    /// <summary>The code, if it may be used now.</summary>
    /// <exception cref="RefusedException">There is no such code, it was used, or it ran out.</exception>
    public ProbeCode Open(string code) => Usable(code).Code;

    /// <summary>
    /// Uses a code up by doing <paramref name="work"/>. Work that fails leaves it open, so that a broken transfer can be
    /// tried again; of two at once one is turned away before its bundle is read.
    /// </summary>
    public async Task<T> UseAsync<T>(string code, Func<ProbeCode, Task<T>> work, CancellationToken stop)
    {
        var state = Usable(code);
        if (!await state.Turn.WaitAsync(0, stop))
            throw new RefusedException(
                RefusalKind.Conflict,
                "Somebody is sending a bundle by this code just now.",
                "code",
                "One sender at a time; wait for that one, or ask for another code."
            );
        try
        {
            var result = await work(Usable(code).Code);
            state.Used = true;
            return result;
        }
        finally
        {
            state.Turn.Release();
        }
    }

    private State Usable(string code)
    {
        if (code.Length != Length || !_codes.TryGetValue(code, out var state))
            throw new RefusedException(
                RefusalKind.Missing,
                "There is no such code.",
                "code",
                "A code that intake shows; they are made of letters and digits and are used once."
            );
        if (state.Used)
            throw Over("This code was used already.");
        if (state.Code.ExpiresAt < clock.GetUtcNow())
            throw Over("This code has run out.");
        return state;
    }

    private static RefusedException Over(string what) =>
        new(
            RefusalKind.Gone,
            what,
            "code",
            $"A fresh code: one is good for one bundle and {Life.TotalMinutes:0} minutes."
        );
}
