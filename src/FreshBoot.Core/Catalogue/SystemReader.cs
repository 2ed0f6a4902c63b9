namespace FreshBoot.Core.Catalogue;

/// <summary>Reads the entry of a system, and what is wrong within it.</summary>
internal static class SystemReader
{
    /// <summary>The system that an object of a pack describes.</summary>
    public static SystemEntry Read(PackNode node)
    {
        node.Pass.Links.Upgrade(node, node.Text("id"));
        var requirements = Requirements(node);
        return new SystemEntry(
            node.Id(),
            node.Text("name"),
            node.TextOrNull("release"),
            node.Enum<SystemClass>("class"),
            node.Text("about"),
            SupportEnds(node),
            node.Evidence(),
            Install(node.Below("install")),
            requirements
        )
        {
            Released = node.DayOrNull("released"),
            SupportByBoard = node.Members("supportByBoard")
                .ToDictionary(
                    p => p.Name,
                    p => node.DayOf(p.Value.GetValue<string>(), $"supportByBoard/{p.Name}"),
                    StringComparer.Ordinal
                ),
            Editions = node.Texts("editions"),
            Languages = node.Texts("languages"),
            Architectures = node.Texts("architectures"),
            Extension = node.Maybe("extension") is { } extension ? Extension(extension, node) : null,
            InPlace = [.. node.Each("inPlace").Select(s => new InPlaceSource(s.SystemId("from"), s.Texts("keeps")))],
            InPlaceBegins = node.EnumOr("inPlaceBegins", UpgradeBegins.Inside),
            InPlaceFreeBytes = node.Long("inPlaceFreeBytes"),
            InPlaceLoaderBytes = node.Long("inPlaceLoaderBytes"),
            InPlaceGate = InPlaceGate(node, requirements),
            Account = node.EnumOr("account", Asked.Offered),
            Network = node.EnumOr("network", Asked.Offered),
            Encryption = node.Maybe("encryption") is { } encryption
                ? new DriveEncryption(encryption.Enum<EncryptionBy>("by"), encryption.TextOrNull("where"))
                : null,
            Unattended = node.Flag("unattended"),
            Features = node.Texts("features"),
            UpdatesSurePercent = node.NumberOrNull("updatesSurePercent") ?? 100,
            Trust = node.EnumOr("trust", Trust.Maker),
            ImageBytes = node.Long("imageBytes"),
            Installer = node.Maybe("installer") is { } installer ? Installer(installer) : null,
            Kit = node.Maybe("kit") is { } kit ? KitReader.System(kit) : null,
            Components = Components(node),
        };
    }

    private static List<Requirement> Requirements(PackNode system)
    {
        var requirements = new List<Requirement>();
        var ids = new HashSet<string>(StringComparer.Ordinal);
        foreach (var node in system.Each("requirements"))
        {
            var read = Requirement(node);
            if (!ids.Add(read.Id) || BuiltIn.Requirements.Any(b => b.Id == read.Id) || read.Id is "support" or "trust")
                node.Fault("id", $"the requirement id “{read.Id}” is used twice, or taken by a built-in one");
            requirements.Add(read);
        }
        return requirements;
    }

    private static Requirement Requirement(PackNode node)
    {
        var requirement = new Requirement(
            node.Text("id"),
            node.Enum<RequirementKind>("kind"),
            node.Enum<Rung>("rung"),
            node.Condition("needs"),
            node.Evidence(),
            node.Flag("advisory"),
            node.TextOrNull("needed"),
            node.TextOrNull("ifLifted")
        )
        {
            Claims = [.. node.Each("claims").Select(c => new Claim(c.Text("says"), c.Evidence()))],
            WhyThis = node.TextOrNull("whyThis"),
        };
        if (requirement.Claims.Count > 0 && requirement.WhyThis is null)
            node.Fault("", "where claims contradict each other, “whyThis” says why this one is in force");
        if (requirement.Kind.OnlyChecked() && requirement.Rung != Rung.Setup)
            node.Fault("rung", "gates stand on the rung “setup”");
        if (requirement.Advisory && !requirement.Kind.OnlyChecked())
            node.Fault("advisory", "only a gate can be advisory");
        return requirement;
    }

    /// <summary>The last day of support. In an edit a day in the past is a slip, unless it says that support has ended.</summary>
    private static DateOnly? SupportEnds(PackNode node)
    {
        var ends = node.DayOrNull("supportEnds");
        var fresh = node.Pass.Fresh;
        if (ends < fresh?.AsOf && fresh.Ids.Contains(node.Text("id")) && !node.Flag("ended"))
            node.Fault(
                "supportEnds",
                $"{ends:yyyy-MM-dd} is in the past; where support has ended already, say “ended”: true"
            );
        if (ends is not null && node.DayOrNull("released") is { } released && ends < released)
            node.Fault("supportEnds", "support ends before the system came out");
        return ends;
    }

    private static SupportExtension Extension(PackNode node, PackNode system)
    {
        var ends = node.Day("ends");
        if (
            system.TextOrNull("supportEnds") is not { } text
            || DateOnly.TryParseExact(text, "yyyy-MM-dd", out var support) && ends <= support
        )
            node.Fault("ends", "a paid extension ends after the end of support");
        return new SupportExtension(ends, node.Number("money"));
    }

    private static string? InPlaceGate(PackNode node, List<Requirement> requirements)
    {
        var gate = node.TextOrNull("inPlaceGate");
        if (gate is not null && !requirements.Exists(r => r.Id == gate && r.Kind.OnlyChecked()))
            node.Fault("inPlaceGate", $"“{gate}” is no gate of this system");
        return gate;
    }

    private static InstallTime Install(PackNode node)
    {
        var time = new InstallTime(
            node.Number("handsOnMinutes"),
            node.Number("shortestMinutes"),
            node.Number("usualMinutes"),
            node.Number("worryMinutes")
        );
        if (time.ShortestMinutes > time.UsualMinutes || time.UsualMinutes > time.WorryMinutes)
            node.Fault("", "the shortest wait is longer than the usual one, or that longer than the time to worry");
        return time;
    }

    private static InstallerEntry Installer(PackNode node) =>
        new(
            new InstallerWords(node.Text("letsIn"), node.Text("refuses"), node.TextOrNull("reason")),
            node.EnumOr("largeFiles", LargeFiles.Whole),
            node.Maybe("answers") is { } answers ? Answers(answers) : null
        )
        {
            Talk = node.Maybe("talk") is { } talk
                ? new InstallerTalk(
                    talk.Text("question"),
                    talk.Members("typed")
                        .ToDictionary(p => p.Name, p => p.Value.GetValue<string>(), StringComparer.Ordinal),
                    talk.TextOrNull("taken"),
                    talk.Text("stops"),
                    talk.Text("installed"),
                    talk.Text("loader"),
                    talk.Text("fromDrive"),
                    talk.Text("ready"),
                    talk.Text("probed")
                )
                {
                    Upgrade = talk.Maybe("upgrade") is { } upgrade
                        ? new UpgradeTalk(
                            upgrade.Text("prompt"),
                            upgrade.Text("keep"),
                            upgrade.Text("off"),
                            upgrade.Text("begin"),
                            upgrade.Text("look"),
                            upgrade.Text("kept")
                        )
                        {
                            Turn = upgrade.TextOrNull("turn"),
                            Turned = upgrade.TextOrNull("turned"),
                        }
                        : null,
                }
                : null,
            Defects =
            [
                .. node.Each("defects")
                    .Select(d => new KnownDefect(
                        d.TextOrNull("build"),
                        d.Text("sees"),
                        d.Text("workaround"),
                        d.Evidence()
                    )),
            ],
        };

    private static AnswerRules Answers(PackNode node)
    {
        node.Pattern("accountName");
        return new AnswerRules(
            node.Text("path"),
            node.Text("accountName"),
            node.Text("accountRule"),
            node.Members("privacy").ToDictionary(p => p.Name, p => p.Value.GetValue<string>(), StringComparer.Ordinal)
        );
    }

    private static List<SystemComponent> Components(PackNode system)
    {
        var nodes = system.Each("components").ToList();
        var all = nodes.ConvertAll(n => new SystemComponent(
            n.Text("id"),
            n.Text("name"),
            n.Texts("needs"),
            n.Text("breaks"),
            n.Long("sizeBytes"),
            n.NumberOrNull("memoryMiB") ?? 0,
            n.Texts("for"),
            n.Flag("fixed")
        ));
        for (var i = 0; i < all.Count; i++)
        {
            if (all.FindIndex(c => c.Id == all[i].Id) < i)
                nodes[i].Fault("id", $"there is another component “{all[i].Id}”");
            foreach (var need in all[i].Needs.Where(n => all.TrueForAll(c => c.Id != n)))
                nodes[i].Fault("needs", $"there is no component “{need}”");
        }
        return all;
    }
}
