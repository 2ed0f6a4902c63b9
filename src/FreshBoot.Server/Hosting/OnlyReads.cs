namespace FreshBoot.Server.Hosting;

/// <summary>Marks an endpoint that takes a body and changes nothing: no page has to look again after it.</summary>
internal sealed class OnlyReads;
