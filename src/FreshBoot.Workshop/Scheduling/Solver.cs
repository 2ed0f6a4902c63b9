using System.Globalization;
using Google.OrTools.Sat;

namespace FreshBoot.Workshop.Scheduling;

/// <summary>Runs the constraint solver for a time, tells each better answer, and stops when it is asked to.</summary>
internal static class Solver
{
    /// <summary>Solver threads: what a workshop's computer has at least.</summary>
    private const int Threads = 4;

    private sealed class Told(Action<CpSolverSolutionCallback> tell, CancellationToken stop) : CpSolverSolutionCallback
    {
        public override void OnSolutionCallback()
        {
            tell(this);
            if (stop.IsCancellationRequested)
                StopSearch();
        }
    }

    /// <summary>Solves; a cancelled search ends with the best so far.</summary>
    /// <param name="model">The model.</param>
    /// <param name="time">How long at most.</param>
    /// <param name="enough">Where no answer could be better by more than this part of its cost, the search ends.</param>
    /// <param name="better">Told of each better answer.</param>
    /// <param name="stop">Ends the search early.</param>
    public static (CpSolverStatus Status, CpSolver Solver) Run(
        CpModel model,
        TimeSpan time,
        double enough,
        Action<CpSolverSolutionCallback> better,
        CancellationToken stop
    )
    {
        var solver = new CpSolver
        {
            StringParameters = string.Create(
                CultureInfo.InvariantCulture,
                $"max_time_in_seconds:{Math.Max(0.1, time.TotalSeconds):0.###} num_workers:{Threads} random_seed:1 relative_gap_limit:{enough:0.####}"
            ),
        };
        using var told = new Told(better, stop);
        using var registration = stop.Register(solver.StopSearch);
        if (stop.IsCancellationRequested)
            return (CpSolverStatus.Unknown, solver);
        var status = solver.Solve(model, told);
        // The plain rule has an answer to every question that is put here: a model without one is wrong.
        return status is CpSolverStatus.Infeasible or CpSolverStatus.ModelInvalid
            ? throw new InvalidOperationException($"The model is {status}: {model.Validate()}")
            : (status, solver);
    }
}
