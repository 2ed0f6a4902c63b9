using System.Diagnostics;
using System.Text;
using System.Text.Json.Nodes;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Patching;
using Json.Schema;

namespace FreshBoot.Core.Tests.Patching;

public sealed class RecipeTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("fresh-boot-recipe-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static string[] ShippedRecipes =>
        Directory.GetFiles(Path.Combine(Shipped.Home, "catalogue", "recipes"), "*.json");

    [Fact]
    public void Recipes_that_ship_follow_the_schema_name_systems_gates_and_cures_and_come_out_as_they_went_in()
    {
        var schema = JsonSchema.FromText(
            File.ReadAllText(Path.Combine(Shipped.Home, "catalogue", "schemas", "recipe.schema.json"))
        );
        foreach (var file in ShippedRecipes)
        {
            var text = File.ReadAllText(file);
            schema.Evaluate(JsonNode.Parse(text)).IsValid.ShouldBeTrue(file);
            var recipe = RecipeReader.Read(text);
            RecipeReader.Read(recipe.Write()).Write().ShouldBe(recipe.Write());
            schema.Evaluate(JsonNode.Parse(recipe.Write())).IsValid.ShouldBeTrue(file);
            Path.GetFileNameWithoutExtension(file).ShouldBe(recipe.Id);
            var system = Shipped.Catalogue.System(recipe.For.System).ShouldNotBeNull();
            recipe.Lifts.ShouldAllBe(l => system.Requirements.Any(r => l == $"{system.Id}/{r.Id}"));
            if (recipe.Cure is { } cure)
                Shipped.Catalogue.Cures.Single(c => c.Id == cure).Lifts!.ShouldBe(recipe.Lifts, ignoreOrder: true);
        }
    }

    private static Recipe Gates =>
        RecipeReader.Read(
            File.ReadAllText(
                ShippedRecipes.Single(f => f.EndsWith("tessaly-6-r1-gates.json", StringComparison.Ordinal))
            )
        );

    private static Dictionary<string, byte[]> Medium(string build, string gates = "check") =>
        new(StringComparer.Ordinal)
        {
            ["setup/system.conf"] = Encoding.UTF8.GetBytes($"set build={build}\n"),
            ["setup/gates.conf"] = Encoding.UTF8.GetBytes(
                string.Concat(
                    ((string[])["processor-list", "tpm", "uefi", "secure-boot", "memory-gate"]).Select(g =>
                        $"gate {g} {gates}\n"
                    )
                )
            ),
        };

    [Fact]
    public void A_patch_for_another_build_is_refused_with_the_reason()
    {
        var refusal = Should.Throw<RefusedException>(() => Patcher.Run(Gates, new PatchFiles(Medium("62093")))).Refusal;
        refusal.What.ShouldContain("another build");
        refusal.What.ShouldContain("set build=61140");
        refusal.Wanted.ShouldContain("61140");
        Should
            .Throw<RefusedException>(() => Patcher.CheckFor(Gates, "tessaly-6-r2", null))
            .Refusal.What.ShouldContain("tessaly-6-r2");
        Should
            .Throw<RefusedException>(() => Patcher.CheckFor(Gates, "tessaly-6-r1", "60000"))
            .Refusal.What.ShouldContain("60000");
        Patcher.CheckFor(Gates, "tessaly-6-r1", "61140");
    }

    [Fact]
    public void What_is_half_there_is_no_image_as_it_came()
    {
        var files = Medium("61140");
        files["setup/gates.conf"] = Encoding.UTF8.GetBytes(
            Encoding
                .UTF8.GetString(files["setup/gates.conf"])
                .Replace("gate tpm check", "gate tpm skip", StringComparison.Ordinal)
        );
        Should
            .Throw<RefusedException>(() => Patcher.Run(Gates, new PatchFiles(files)))
            .Refusal.What.ShouldStartWith("One of five changes is there already");
        Patcher.Run(Gates, new PatchFiles(Medium("61140", "skip"))).AlreadyApplied.ShouldBeTrue();
    }

    private static async Task<(int Code, string Said)> ShellAsync(params string[] arguments)
    {
        using var shell = Process.Start(
            new ProcessStartInfo("sh", arguments)
            {
                UseShellExecute = false,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        var said = await shell.StandardOutput.ReadToEndAsync() + await shell.StandardError.ReadToEndAsync();
        await shell.WaitForExitAsync();
        return (shell.ExitCode, said);
    }

    [Fact]
    public async Task The_script_of_a_recipe_does_what_the_recipe_does_and_its_undo_takes_it_back_to_the_byte()
    {
        var files = new Dictionary<string, byte[]>(StringComparer.Ordinal)
        {
            ["etc/a b.conf"] = "one\ntwo it's\nthree\n"u8.ToArray(),
            ["etc/x.ini"] = "[a]\nkey = old\n[b]\nkey = old\n"u8.ToArray(),
            ["etc/boot"] = "linux /k quiet\n"u8.ToArray(),
            ["etc/gone"] = "bye\n"u8.ToArray(),
            ["etc/moved"] = "here\n"u8.ToArray(),
        };
        var recipe = new Recipe
        {
            Id = "script-test",
            Name = "Test",
            Acts = PatchPlace.Afterwards,
            For = new RecipeFor("tessaly-6-r1", [], [new FileCondition("etc/a b.conf", Contains: "two it's")]),
            Relaxations = [new Relaxation("A door", "Close the door.")],
            Operations =
            [
                new ReplaceText
                {
                    Path = "etc/a b.conf",
                    Find = "two it's",
                    With = "2 $HOME `x` \\",
                },
                new InsertLines
                {
                    Path = "etc/a b.conf",
                    After = "one",
                    Lines = ["and 'quoted'", "more"],
                },
                new RemoveLines { Path = "etc/a b.conf", Lines = ["three"] },
                new SetIni
                {
                    Path = "etc/x.ini",
                    Section = "b",
                    Key = "key",
                    Old = "old",
                    Value = "new",
                },
                new AppendArguments
                {
                    Path = "etc/boot",
                    Command = "linux",
                    Arguments = ["nomodeset"],
                },
                new AddFile { Path = "new/file.txt", Text = "hello\nthere\n" },
                new RemoveFile
                {
                    Path = "etc/gone",
                    OldSha256 = Convert.ToHexStringLower(
                        System.Security.Cryptography.SHA256.HashData(files["etc/gone"])
                    ),
                },
                new RenameFile { Path = "etc/moved", To = "etc/other" },
            ],
        };
        RecipeReader.Check(recipe);
        void Lay()
        {
            foreach (var (path, content) in files)
            {
                Directory.CreateDirectory(Path.GetDirectoryName(Path.Combine(_folder, "root", path))!);
                File.WriteAllBytes(Path.Combine(_folder, "root", path), content);
            }
        }
        Dictionary<string, string> Now() =>
            Directory
                .GetFiles(Path.Combine(_folder, "root"), "*", SearchOption.AllDirectories)
                .Where(f => !f.Contains("/.fresh-boot/"))
                .ToDictionary(
                    f => Path.GetRelativePath(Path.Combine(_folder, "root"), f),
                    File.ReadAllText,
                    StringComparer.Ordinal
                );
        Lay();
        var before = Now();
        var made = PatchScript.Of(recipe, 1);
        var (script, undo) = (Path.Combine(_folder, "do.sh"), Path.Combine(_folder, "undo.sh"));
        await File.WriteAllTextAsync(script, made.Script);
        await File.WriteAllTextAsync(undo, made.Undo);

        (await ShellAsync(script, Path.Combine(_folder, "root"))).ShouldBe((0, "Done.\n"));
        var wanted = before.ToDictionary(StringComparer.Ordinal);
        foreach (var file in Patcher.Run(recipe, new PatchFiles(files)).Files)
            if (file.Content is { } content)
                wanted[file.Path] = Encoding.UTF8.GetString(content);
            else
                wanted.Remove(file.Path);
        Now().OrderBy(f => f.Key).ShouldBe(wanted.OrderBy(f => f.Key));

        (await ShellAsync(script, Path.Combine(_folder, "root"))).Said.ShouldBe("Already applied.\n");
        // Whoever changed a file since would lose that.
        File.AppendAllText(Path.Combine(_folder, "root", "etc/boot"), "x");
        (await ShellAsync(undo, Path.Combine(_folder, "root"))).Code.ShouldBe(1);
        File.WriteAllText(Path.Combine(_folder, "root", "etc/boot"), wanted["etc/boot"]);
        (await ShellAsync(undo, Path.Combine(_folder, "root"))).ShouldBe((0, "Taken back.\n"));
        Now().OrderBy(f => f.Key).ShouldBe(before.OrderBy(f => f.Key));

        // One precondition that fails, and nothing is changed.
        File.WriteAllText(Path.Combine(_folder, "root", "etc/x.ini"), "[b]\nkey = other\n");
        var odd = Now();
        var (code, said) = await ShellAsync(script, Path.Combine(_folder, "root"));
        code.ShouldBe(1);
        said.ShouldContain("Nothing was changed: etc/x.ini");
        Now().OrderBy(f => f.Key).ShouldBe(odd.OrderBy(f => f.Key));
        made.Steps.Select(s => s.Text).ShouldContain("Close the door.");
    }

    [Fact]
    public void What_no_person_could_check_is_not_made_a_script()
    {
        var recipe = Gates with
        {
            Acts = PatchPlace.BeforeUpgrade,
            Operations =
            [
                new ReplaceBytes
                {
                    Path = "a",
                    Offset = 0,
                    Old = "00",
                    New = "01",
                },
            ],
        };
        Should.Throw<RefusedException>(() => PatchScript.Of(recipe, 1)).Refusal.Where.ShouldBe("operations[0]");
        Should.Throw<RefusedException>(() => PatchScript.Of(Gates, 1));
    }

    private static Answers Answers(
        string account = "reader",
        string password = "",
        bool encryption = false,
        string name = "MILL-{number}"
    ) =>
        new(
            account,
            password,
            "Eddlestow",
            "en",
            new Dictionary<string, bool>(StringComparer.Ordinal) { ["diagnostics"] = true },
            encryption,
            name,
            true,
            false
        );

    private static AnswerRules Rules(string system) => Shipped.Catalogue.System(system)!.Installer!.Answers!;

    [Fact]
    public void An_answer_file_answers_every_privacy_question_and_warns()
    {
        var (text, warnings) = AnswerFile.Write(Answers(), Rules("tessaly-6-r1"), "MR-0417", hasTpm: false);
        text.ShouldBe(
            "answers 1\nanswer account \"reader\"\nanswer password \"none\"\nanswer region \"Eddlestow\"\nanswer keyboard \"en\"\nanswer computer \"MILL-0417\"\nanswer encryption \"off\"\nanswer account-step \"skip\"\nanswer network-step \"show\"\nanswer privacy-advertising \"no\"\nanswer privacy-diagnostics \"yes\"\nanswer privacy-handwriting \"no\"\nanswer privacy-location \"no\"\n"
        );
        warnings.ShouldContain(w => w.Contains("no password"));
        AnswerFile
            .Write(Answers(encryption: true), Rules("tessaly-6-r1"), "MR-0417", false)
            .Warnings.ShouldContain(w => w.Contains("passphrase at every start"));
        AnswerFile
            .Write(Answers(encryption: true), Rules("tessaly-6-r1"), "MR-0417", true)
            .Warnings.ShouldContain(w => w.Contains("recovery key"));
        AnswerFile.Write(Answers(), Rules("tessaly-6-r1"), null, null).Text.ShouldContain("answer computer \"ask\"");
    }

    [Fact]
    public void Names_follow_the_rules_of_the_system()
    {
        AnswerFile
            .Write(Answers("Reading Corner"), Rules("tessaly-6-r1"), "MR-0417", null)
            .Text.ShouldContain("Reading Corner");
        Should
            .Throw<RefusedException>(() => AnswerFile.Write(Answers("Reader"), Rules("wickerwork-26"), "MR-0417", null))
            .Refusal.Where.ShouldBe("account");
        Should
            .Throw<RefusedException>(() =>
                AnswerFile.Write(Answers(name: "a name"), Rules("tessaly-6-r1"), "MR-0417", null)
            )
            .Refusal.Where.ShouldBe("computerName");
        Should
            .Throw<RefusedException>(() =>
                AnswerFile.Write(Answers(password: "x\" y"), Rules("tessaly-6-r1"), "MR-0417", null)
            )
            .Refusal.Where.ShouldBe("password");
    }

    [Fact]
    public void A_trim_plan_takes_what_needs_the_rest_along_and_leaves_nothing_that_is_fixed()
    {
        var components = Shipped.Catalogue.System("tessaly-6-r1")!.Components;
        var plan = TrimPlan.Make("tessaly-6-r1", "61140", components, ["store"]);
        plan.Left.Select(l => (l.Id, l.Because)).ShouldBe([("assistant", "store"), ("store", null)]);
        plan.SavedBytes.ShouldBe(components.Where(c => c.Id is "store" or "assistant").Sum(c => c.SizeBytes));
        plan.Script.ShouldContain("component remove 'assistant'\n");
        plan.Script.IndexOf("remove 'assistant'", StringComparison.Ordinal)
            .ShouldBeLessThan(plan.Script.IndexOf("remove 'store'", StringComparison.Ordinal));
        plan.Undo.IndexOf("install 'store'", StringComparison.Ordinal)
            .ShouldBeLessThan(plan.Undo.IndexOf("install 'assistant'", StringComparison.Ordinal));
        RecipeReader.Check(plan.Recipe);
        Should
            .Throw<RefusedException>(() => TrimPlan.Make("x", null, components, ["desk"]))
            .Refusal.What.ShouldContain("cannot be left out");
        // Who wants to draw keeps the pen and what it needs, and the printer.
        TrimPlan.Dispensable(components, ["drawing"]).ShouldBe(["store", "assistant", "recorder"], ignoreOrder: true);
    }
}
