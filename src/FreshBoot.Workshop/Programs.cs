using System.ComponentModel;
using System.Diagnostics;
using System.Text;

namespace FreshBoot.Workshop;

/// <summary>Runs outside programs: without a shell, with a list of arguments, ended with whoever asked.</summary>
internal static class Programs
{
    /// <summary>Whether a program is on the path.</summary>
    public static bool Has(string name) =>
        (Environment.GetEnvironmentVariable("PATH") ?? "")
            .Split(':')
            .Any(p => p.Length > 0 && File.Exists(Path.Combine(p, name)));

    /// <summary>The first of these that is not installed, in the folders of administration either; null where all are.</summary>
    public static string? Missing(IEnumerable<string> names) =>
        names.FirstOrDefault(n => !Has(n) && !File.Exists($"/usr/sbin/{n}") && !File.Exists($"/sbin/{n}"));

    /// <summary>Runs a program to its end.</summary>
    /// <returns>Its exit code, and the end of what it said.</returns>
    /// <exception cref="OperationCanceledException">It was stopped; the program has ended.</exception>
    public static async Task<(int Code, string Said)> RunAsync(
        string program,
        IReadOnlyList<string> arguments,
        CancellationToken stop,
        string? work = null
    )
    {
        using var process = Start(program, arguments);
        if (work is not null)
            WorkFolder.Note(work, process);
        var said = new Tail();
        var reading = Task.WhenAll(ReadAsync(process.StandardOutput, said), ReadAsync(process.StandardError, said));
        try
        {
            await process.WaitForExitAsync(stop);
        }
        catch (OperationCanceledException)
        {
            End(process);
            throw;
        }
        await reading;
        return (process.ExitCode, said.ToString());
    }

    /// <summary>Runs a program that has to succeed.</summary>
    /// <exception cref="IOException">It did not; what it said is in it.</exception>
    public static async Task DoneAsync(
        string program,
        IReadOnlyList<string> arguments,
        string work,
        CancellationToken stop
    )
    {
        var (code, said) = await RunAsync(program, arguments, stop, work);
        if (code != 0)
            throw new IOException($"{program} ended with {code}: {said}");
    }

    /// <summary>Starts a program.</summary>
    public static Process Start(string program, IReadOnlyList<string> arguments)
    {
        var start = new ProcessStartInfo(program, arguments)
        {
            UseShellExecute = false,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true,
        };
        // Messages are looked through for words.
        start.Environment["LC_ALL"] = "C";
        try
        {
            var process = Process.Start(start)!;
            process.StandardInput.Close();
            return process;
        }
        catch (Win32Exception)
        {
            throw new RefusedException(
                RefusalKind.Missing,
                $"The program {program} is not installed.",
                program,
                "Install it, or start ./demo.sh, which does."
            );
        }
    }

    /// <summary>Ends a program that was started here.</summary>
    public static void End(Process process)
    {
        try
        {
            if (!process.HasExited)
                process.Kill(entireProcessTree: true);
            process.WaitForExit(5000);
        }
        catch (InvalidOperationException)
        {
            // It has ended by itself meanwhile.
        }
    }

    public static async Task ReadAsync(StreamReader reader, Tail into)
    {
        while (await reader.ReadLineAsync() is { } line)
            into.Add(line);
    }

    /// <summary>The last lines of a text.</summary>
    internal sealed class Tail
    {
        private readonly Queue<string> _lines = new();

        public void Add(string line)
        {
            lock (_lines)
            {
                _lines.Enqueue(line);
                if (_lines.Count > 30)
                    _lines.Dequeue();
            }
        }

        public override string ToString()
        {
            lock (_lines)
                return new StringBuilder().AppendJoin('\n', _lines).ToString();
        }
    }
}
