using FreshBoot.Server;

return await App.RunAsync(args);

/// <summary>The entry point; public so that tests can start the application as it is.</summary>
public partial class Program;
