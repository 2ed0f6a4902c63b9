using System.Text;

namespace FreshBoot.Core.Patching;

/// <summary>A step of carrying out a recipe for a running system; its page shows them beside the script.</summary>
/// <param name="Text">What to do.</param>
/// <param name="Command">What to type; null for none.</param>
/// <param name="Expect">What it prints when it has worked.</param>
/// <param name="Caution">What to mind.</param>
public sealed record ScriptStep(string Text, string? Command, string? Expect, string? Caution);

/// <summary>A recipe for a running system as a script that can be read, with its own undo.</summary>
/// <param name="Script">The script (POSIX shell).</param>
/// <param name="Undo">The script that takes it back.</param>
/// <param name="Relaxations">What is opened for it, and how it is closed.</param>
/// <param name="Steps">How it is carried out, in order.</param>
public sealed record PatchScript(
    string Script,
    string Undo,
    IReadOnlyList<Relaxation> Relaxations,
    IReadOnlyList<ScriptStep> Steps
)
{
    private const string Helpers = """
        die() { rm -rf "$work" "$work.new"; echo "Nothing was changed: $1" >&2; exit 1; }
        sum() { sha256sum < "$1" | cut -d ' ' -f 1; }
        # take FILE: works on a copy of it.
        take() {
          [ -f "$work/$1" ] && return
          [ -f "$1" ] || die "there is no $1"
          mkdir -p "$work/$(dirname "$1")"
          cp -p "$1" "$work/$1"
        }
        # replace FILE COUNT FIND WITH: a text that must occur exactly so many times.
        replace() {
          FIND=$3 WITH=$4 awk -v want="$2" 'BEGIN { find = ENVIRON["FIND"]; with = ENVIRON["WITH"] }
            { line = $0; out = ""
              while ((i = index(line, find)) > 0) { out = out substr(line, 1, i - 1) with; line = substr(line, i + length(find)); n++ }
              print out line }
            END { if (n != want) exit 3 }' "$work/$1" > "$work.new" || die "$1 does not hold “$3” $2 time(s)"
          cat "$work.new" > "$work/$1"
        }
        # insert FILE after|before LINE LINES: beside a whole line that must be there once.
        insert() {
          ANCHOR=$3 LINES=$4 awk -v where="$2" 'BEGIN { anchor = ENVIRON["ANCHOR"]; lines = ENVIRON["LINES"] }
            $0 == anchor { n++; if (where == "before") print lines }
            { print }
            $0 == anchor { if (where == "after") print lines }
            END { if (n != 1) exit 3 }' "$work/$1" > "$work.new" || die "$1 does not hold the line “$3” once"
          cat "$work.new" > "$work/$1"
        }
        # cut_lines FILE LINES: lines that follow one another and must be there once.
        cut_lines() {
          LINES=$2 awk 'BEGIN { count = split(ENVIRON["LINES"], gone, "\n") }
            { line[NR] = $0 }
            END {
              for (i = 1; i + count - 1 <= NR; i++) { same = 1; for (j = 1; j <= count; j++) if (line[i + j - 1] != gone[j]) same = 0; if (same) { n++; at = i } }
              if (n != 1) exit 3
              for (i = 1; i <= NR; i++) if (i < at || i >= at + count) print line[i]
            }' "$work/$1" > "$work.new" || die "$1 does not hold the lines to remove once"
          cat "$work.new" > "$work/$1"
        }
        # set_ini FILE SECTION KEY OLD VALUE: a key that must be what it was.
        set_ini() {
          OLD=$4 VALUE=$5 awk -v section="$2" -v key="$3" 'BEGIN { old = ENVIRON["OLD"]; value = ENVIRON["VALUE"]; here = section == "" }
            /^[ \t]*\[.*\][ \t]*$/ { name = $0; gsub(/^[ \t]*\[|\][ \t]*$/, "", name); here = name == section }
            { i = index($0, "="); k = substr($0, 1, i - 1); gsub(/^[ \t]+|[ \t]+$/, "", k)
              if (here && i > 0 && k == key) { v = substr($0, i + 1); gsub(/^[ \t]+|[ \t]+$/, "", v); if (v != old) exit 3; match(substr($0, i + 1), /^ */); print substr($0, 1, i + RLENGTH) value; n++; next }
              print }
            END { if (n != 1) exit 3 }' "$work/$1" > "$work.new" || die "$1: [$2] $3 is not “$4”"
          cat "$work.new" > "$work/$1"
        }
        # append FILE COUNT COMMAND ARGUMENTS: to lines that begin with a command.
        append() {
          ARGS=$4 awk -v want="$2" -v command="$3" 'BEGIN { count = split(ENVIRON["ARGS"], args, " ") }
            $1 == command {
              sub(/[ \t]+$/, ""); line = $0
              for (i = 1; i <= count; i++) { there = 0; for (j = 1; j <= NF; j++) if ($j == args[i]) there = 1; if (!there) line = line " " args[i] }
              print line; n++; next }
            { print }
            END { if (n != want) exit 3 }' "$work/$1" > "$work.new" || die "$1 does not hold $2 line(s) of “$3”"
          cat "$work.new" > "$work/$1"
        }

        """;

    /// <summary>The script of a recipe that acts in a running system.</summary>
    /// <exception cref="RefusedException">It acts on the image, or has an operation that a script to be read cannot do.</exception>
    public static PatchScript Of(Recipe recipe, int version)
    {
        if (recipe.Acts == PatchPlace.Image)
            throw new RefusedException(
                RefusalKind.Conflict,
                "This recipe acts on the image: it needs no script.",
                "acts",
                "A recipe that acts in the running system."
            );
        var name = $"{recipe.Id}-{version}";
        var script = new StringBuilder();
        script.Append($"#!/bin/sh\n# {Remark(recipe.Name)} ({name})\n# {Remark(recipe.About)}\n");
        script.Append(
            $"# For {Remark(recipe.For.System)}{(recipe.For.Builds.Count > 0 ? $", build {Remark(Numbers.Join(recipe.For.Builds, "or"))}" : "")}.\n"
        );
        foreach (var cost in recipe.Costs)
            script.Append($"# It costs: {Remark(cost)}\n");
        foreach (var relaxation in recipe.Relaxations)
            script.Append($"# It needs: {Remark(relaxation.What)}. Afterwards: {Remark(relaxation.Close)}\n");
        script.Append(
            $"#\n# Read it before you run it:  sh {name}.sh FOLDER   where FOLDER holds the system (usually /).\n"
        );
        script.Append(
            "# All of it is done or nothing; the files as they were are kept beside, for the undo script.\nset -eu\n"
        );
        script.Append(
            $"cd \"${{1:?name the folder that holds the system}}\"\nkept=.fresh-boot/{name}\nwork=.fresh-boot/{name}.work\n"
        );
        script.Append(
            "if [ -e \"$kept\" ]; then echo \"Already applied.\"; exit 0; fi\nrm -rf \"$work\"\nmkdir -p \"$work\"\n\n"
        );
        script.Append(Helpers).Append('\n');

        script.Append("# What must hold before anything is touched.\n");
        foreach (var condition in recipe.For.Files)
            script.Append(
                condition.Sha256 is { } sha256
                    ? $"[ -f {Quote(condition.Path)} ] && [ \"$(sum {Quote(condition.Path)})\" = {sha256} ] || die \"this is another build: \"{Quote(condition.Path)}\n"
                    : $"grep -qF -- {Quote(condition.Contains!)} {Quote(condition.Path)} 2> /dev/null || die \"this is another build: \"{Quote(condition.Path)}\n"
            );
        script.Append("\n# The changes, on copies.\n");
        var (changed, removed) = (new List<string>(), new List<string>());
        var index = 0;
        foreach (var operation in recipe.Operations)
            Write(script, operation, index++, changed, removed);

        script.Append(
            "\n# All of it fits: the originals are kept, then the changed files take their places.\nmkdir -p \"$kept.part/files\"\n: > \"$kept.part/new\"\n"
        );
        foreach (var path in changed.Concat(removed).Distinct(StringComparer.Ordinal))
            script.Append(
                $"if [ -f {Quote(path)} ]; then mkdir -p \"$kept.part/files/$(dirname {Quote(path)})\"; cp -p {Quote(path)} \"$kept.part/files/\"{Quote(path)}; else echo {Quote(path)} >> \"$kept.part/new\"; fi\n"
            );
        var there = changed.Where(p => !removed.Contains(p)).Distinct(StringComparer.Ordinal).ToList();
        foreach (var path in there)
            script.Append(
                $"mkdir -p \"$(dirname {Quote(path)})\"\nmv \"$work\"/{Quote(path)} {Quote(path)}\nsha256sum {Quote(path)} >> \"$kept.part/after\"\n"
            );
        foreach (var path in removed.Distinct(StringComparer.Ordinal))
            script.Append($"rm -f {Quote(path)}\n");
        script.Append("mv \"$kept.part\" \"$kept\"\nrm -rf \"$work\" \"$work.new\"\necho \"Done.\"\n");

        var undo = new StringBuilder();
        undo.Append(
            $"#!/bin/sh\n# Takes back: {Remark(recipe.Name)} ({name}).\n# Read it before you run it:  sh {name}-undo.sh FOLDER\nset -eu\n"
        );
        undo.Append($"cd \"${{1:?name the folder that holds the system}}\"\nkept=.fresh-boot/{name}\n");
        undo.Append(
            "[ -d \"$kept\" ] || { echo \"It was not applied here: there is nothing to take back.\" >&2; exit 1; }\n"
        );
        undo.Append("# Whoever changed a file since then would lose that.\n");
        undo.Append(
            "if [ -s \"$kept/after\" ] && ! sha256sum --quiet -c \"$kept/after\"; then echo \"A file was changed since; nothing was taken back.\" >&2; exit 1; fi\n"
        );
        undo.Append(
            "while read -r path; do rm -f \"$path\"; done < \"$kept/new\"\ncp -Rp \"$kept/files/.\" .\nrm -rf \"$kept\"\necho \"Taken back.\"\n"
        );

        var before = recipe.Acts == PatchPlace.BeforeUpgrade;
        List<ScriptStep> steps =
        [
            new(
                $"Read {name}.sh from beginning to end. It says what it changes.",
                $"less {name}.sh",
                null,
                "A script that nobody has read is not run."
            ),
            .. recipe.Relaxations.Select(r => new ScriptStep(
                $"Open for it: {r.What}.",
                null,
                null,
                "Write it down: it is closed again below."
            )),
            new(
                before ? "Run it in the running system, before the upgrade." : "Run it in the installed system.",
                $"sh {name}.sh /",
                "Done.",
                before ? "See that the backup can be opened before the upgrade begins." : null
            ),
            .. recipe.Relaxations.Select(r => new ScriptStep(r.Close, null, null, "People forget this one.")),
            new($"Keep {name}-undo.sh with the machine's record: it takes all of it back.", null, null, null),
        ];
        return new PatchScript(script.ToString(), undo.ToString(), recipe.Relaxations, steps);
    }

    private static void Write(
        StringBuilder script,
        Operation operation,
        int index,
        List<string> changed,
        List<string> removed
    )
    {
        var path = Quote(operation.Path);
        switch (operation)
        {
            case ReplaceText r when !r.Find.Contains('\n', StringComparison.Ordinal):
                script.Append($"take {path}\nreplace {path} {r.Count} {Quote(r.Find)} {Quote(r.With)}\n");
                changed.Add(operation.Path);
                break;
            case InsertLines i:
                script.Append(
                    $"take {path}\ninsert {path} {(i.After is null ? "before" : "after")} {Quote(i.After ?? i.Before!)} {Quote(string.Join('\n', i.Lines))}\n"
                );
                changed.Add(operation.Path);
                break;
            case RemoveLines r:
                script.Append($"take {path}\ncut_lines {path} {Quote(string.Join('\n', r.Lines))}\n");
                changed.Add(operation.Path);
                break;
            case SetIni { Old: { } old } s:
                script.Append(
                    $"take {path}\nset_ini {path} {Quote(s.Section)} {Quote(s.Key)} {Quote(old)} {Quote(s.Value)}\n"
                );
                changed.Add(operation.Path);
                break;
            case AppendArguments a:
                script.Append(
                    $"take {path}\nappend {path} {a.Count} {Quote(a.Command)} {Quote(string.Join(' ', a.Arguments))}\n"
                );
                changed.Add(operation.Path);
                break;
            case AddFile { Text: { } text }:
                script.Append(
                    $"[ ! -e {path} ] || die \"there is a \"{path}\" already\"\nmkdir -p \"$work/$(dirname {path})\"\nprintf %s {Quote(text)} > \"$work\"/{path}\n"
                );
                changed.Add(operation.Path);
                break;
            case ReplaceFile { Text: { } text } r:
                script.Append(
                    $"[ -f {path} ] && [ \"$(sum {path})\" = {Quote(r.OldSha256)} ] || die {path}\" is not the file that is to be replaced\"\ntake {path}\nprintf %s {Quote(text)} > \"$work\"/{path}\n"
                );
                changed.Add(operation.Path);
                break;
            case RemoveFile r:
                script.Append(
                    $"[ -f {path} ] && [ \"$(sum {path})\" = {Quote(r.OldSha256)} ] || die {path}\" is not the file that is to be removed\"\n"
                );
                removed.Add(operation.Path);
                break;
            case RenameFile r:
                script.Append(
                    $"[ ! -e {Quote(r.To)} ] || die \"something lies at \"{Quote(r.To)}\ntake {path}\nmkdir -p \"$work/$(dirname {Quote(r.To)})\"\nmv \"$work\"/{path} \"$work\"/{Quote(r.To)}\n"
                );
                changed.Add(r.To);
                removed.Add(operation.Path);
                break;
            default:
                throw new RefusedException(
                    RefusalKind.Conflict,
                    "This operation cannot be written as a script that a person can read and check.",
                    $"operations[{index}]",
                    "Texts on one line, lines, INI keys that are there, arguments, whole text files; or the change on the image."
                );
        }
    }

    /// <summary>A text behind the # of a remark: whatever it holds, the line ends where it ends here.</summary>
    internal static string Remark(string text) =>
        string.Concat(text.Select(c => char.IsControl(c) || c is '\u2028' or '\u2029' ? ' ' : c));

    /// <summary>A text as one word of the shell: nothing in single quotes means anything but itself.</summary>
    internal static string Quote(string text) => $"'{text.Replace("'", "'\\''", StringComparison.Ordinal)}'";
}
