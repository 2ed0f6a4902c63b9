using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Rehearsal;

/// <summary>What a plan fills into the lines that are typed at an installer.</summary>
/// <param name="Drive">The number of the drive that gets the system, as the installer counts them.</param>
/// <param name="Layout">The script that divides it; null where the installer divides the whole drive as it likes.</param>
/// <param name="Name">What the computer is called.</param>
/// <param name="Account">Who uses it.</param>
/// <param name="Code">The code that the second probe carries.</param>
public sealed record DialogueFill(string Drive, string? Layout, string Name, string Account, string Code)
{
    private const string WholeDrive = "whole";

    /// <summary>Words of a talk with what the plan fills in; a layout stands for the whole drive.</summary>
    public string In(string words) =>
        words
            .Replace("{layout}", WholeDrive, StringComparison.Ordinal)
            .Replace("{drive}", Drive, StringComparison.Ordinal)
            .Replace("{name}", Name, StringComparison.Ordinal)
            .Replace("{account}", Account, StringComparison.Ordinal)
            .Replace("{code}", Code, StringComparison.Ordinal);
}

/// <summary>
/// A person at the keyboard of an installer, who knows the plan: reads what it says, and types what belongs there. Values in,
/// values out: whoever holds the serial line gives it what came, and types what it returns.
/// </summary>
public sealed class InstallerDialogue
{
    private readonly InstallerTalk _talk;
    private readonly DialogueFill _fill;
    private readonly Queue<string> _lines = new();
    private string _rest = "";
    private bool _typesLines;
    private bool _probed;

    private readonly string? _prompt;
    private readonly Queue<string> _words;

    /// <summary>Begins a dialogue.</summary>
    /// <param name="talk">How one talks with it.</param>
    /// <param name="fill">What is typed of the plan.</param>
    /// <param name="prompt">A question at which other words than the talk's are typed; null for none.</param>
    /// <param name="words">Those words, one each time that it is asked; when they are used up it is left standing.</param>
    public InstallerDialogue(
        InstallerTalk talk,
        DialogueFill fill,
        string? prompt = null,
        IEnumerable<string>? words = null
    ) => (_talk, _fill, _prompt, _words) = (talk, fill, prompt, new Queue<string>(words ?? []));

    /// <summary>Questions that were asked, in their order, with what was typed.</summary>
    public IReadOnlyList<DialogueLine> Asked => _asked;
    private readonly List<DialogueLine> _asked = [];

    /// <summary>Whether a question came that the talk has no answer for; it is left standing.</summary>
    public string? Unanswered { get; private set; }

    /// <summary>Whether the probe has run.</summary>
    public bool Over => _probed;

    /// <summary>Takes what came down the line, and says what is typed now.</summary>
    /// <param name="text">What came since the last call.</param>
    /// <returns>The lines to type, in their order.</returns>
    public IReadOnlyList<string> Hear(string text)
    {
        _rest += text.Replace("\r", "", StringComparison.Ordinal);
        var typed = new List<string>();
        while (_rest.IndexOf('\n', StringComparison.Ordinal) is var end and >= 0)
        {
            var line = _rest[..end].Trim();
            _rest = _rest[(end + 1)..];
            if (line.Contains(_talk.Probed, StringComparison.Ordinal))
                _probed = true;
            else if (_typesLines && line == _talk.Taken)
                Next(typed);
            else if (Question(line) is { } name)
                Answer(name, typed);
        }
        return typed;
    }

    private string? Question(string line)
    {
        if (!line.StartsWith(_talk.Question.TrimEnd(), StringComparison.Ordinal))
            return null;
        var rest = line[_talk.Question.TrimEnd().Length..].TrimStart();
        return rest.IndexOf(':', StringComparison.Ordinal) is var colon and > 0 ? rest[..colon] : null;
    }

    private void Answer(string name, List<string> typed)
    {
        string? words;
        if (name == _prompt)
        {
            if (!_words.TryDequeue(out words))
                return;
        }
        else if (!_talk.Typed.TryGetValue(name, out words))
        {
            Unanswered = name;
            return;
        }
        // What was asked for once the probe has run is left standing: there is nothing more to type.
        if (_probed)
            return;
        if (words == "{layout}" && _fill.Layout is { } script)
        {
            _asked.Add(new DialogueLine(name, "the script of the planned layout"));
            foreach (var line in script.TrimEnd('\n').Split('\n'))
                _lines.Enqueue(line);
            _lines.Enqueue(".");
            _typesLines = true;
            Next(typed);
            return;
        }
        var answer = _fill.In(words);
        _asked.Add(new DialogueLine(name, answer));
        typed.Add(answer);
    }

    private void Next(List<string> typed)
    {
        if (_talk.Taken is null)
            while (_lines.TryDequeue(out var line))
                typed.Add(line);
        else if (_lines.TryDequeue(out var line))
            typed.Add(line);
        _typesLines = _lines.Count > 0;
    }
}

/// <summary>A question of an installer, and what was typed.</summary>
public sealed record DialogueLine(string Question, string Typed);
