using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>One member's way through a routine.</summary>
    public sealed class RoutineRun
    {
        public long Id { get; init; }
        public long RoutineId { get; init; }
        public MemberId MemberId { get; init; }
        public Instant BegunAt { get; init; }
        /// <summary>The entry of the journal it began with; null where it began with none: by a day, or filled in.</summary>
        public long? Because { get; init; }
        /// <summary>Where it is: see <see cref="RunState"/>.</summary>
        public int Step { get; set; }
        public Instant? Until { get; set; }
        public bool Came { get; set; }
        public int Turn { get; set; }
        public Instant? EndedAt { get; set; }
        public RunEnd? End { get; set; }

        public RunState State
        {
            get => new(Step, Until, Came, Turn);
            set => (Step, Until, Came, Turn) = (value.Step, value.Until, value.Came, value.Turn);
        }
    }

    public static class EndingRuns
    {
        /// <summary>Ends some ways where they are: what was due for them is taken away.</summary>
        public static async Task EndRuns(this BrightContext db, IReadOnlyCollection<RoutineRun> runs, RunEnd end, Instant at, CancellationToken ct)
        {
            if (runs.Count == 0) return;
            foreach (var run in runs) (run.EndedAt, run.End, run.Until, run.Came) = (at, end, null, false);
            var numbers = runs.Select(r => r.Id).ToArray();
            await db.DueWork.Where(d => d.Kind == DueKind.RoutineStep && numbers.Contains(d.SubjectId)).ExecuteDeleteAsync(ct);
        }
    }

    /// <summary>A step that was done in a run. Run, step and turn are its key: nothing is done twice.</summary>
    public sealed class RoutineDone
    {
        public long RunId { get; init; }
        public int Step { get; init; }
        public int Turn { get; init; }
        public Instant At { get; init; }
        /// <summary>What it was, as it is read.</summary>
        public string What { get; init; } = "";
        /// <summary>It was left out, for the reason that stands there.</summary>
        public bool LeftOut { get; init; }
    }

    /// <summary>A kind of event that a routine has to hear of. The journal itself puts what is of such a kind into what falls due, whoever wrote it
    /// down.</summary>
    public sealed class RoutineTrigger
    {
        public long RoutineId { get; init; }
        public string Kind { get; init; } = "";
    }

    /// <summary>Something a person of the team is to do for a member.</summary>
    public sealed class TeamTask
    {
        public long Id { get; init; }
        public MemberId MemberId { get; init; }
        public string Text { get; init; } = "";
        public Instant At { get; init; }
        /// <summary>The run it comes from; null where somebody wrote it.</summary>
        public long? RunId { get; init; }
        /// <summary>Who wrote it, or the routine's name.</summary>
        public string By { get; init; } = "";
        public Instant? DoneAt { get; set; }
        public string? DoneBy { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class RoutineMapping : IEntityTypeConfiguration<Routine>, IEntityTypeConfiguration<RoutineRun>, IEntityTypeConfiguration<RoutineDone>,
        IEntityTypeConfiguration<RoutineTrigger>, IEntityTypeConfiguration<TeamTask>
    {
        public void Configure(EntityTypeBuilder<RoutineTrigger> b)
        {
            b.ToTable("routine_triggers");
            b.HasKey(c => new { c.Kind, c.RoutineId });
            b.Property(c => c.Kind).HasMaxLength(40);
            b.HasOne<Routine>().WithMany().HasForeignKey(c => c.RoutineId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<Routine> b)
        {
            b.ToTable("routines");
            b.Property(r => r.Id).ValueGeneratedNever();
            b.Property(r => r.Name).HasMaxLength(Routine.MostName);
            b.Property(r => r.Script).HasColumnType("jsonb").HasConversion(BrightContext.Json<Script>(), BrightContext.JsonComparer<Script>());
            b.Property(r => r.Version).IsConcurrencyToken();
            b.Ignore(r => r.IsOn);
            b.HasIndex(r => r.Name).IsUnique();
        }

        public void Configure(EntityTypeBuilder<RoutineRun> b)
        {
            b.ToTable("routine_runs");
            b.Property(r => r.Id).ValueGeneratedNever();
            b.Ignore(r => r.State);
            // Nobody is in the same routine twice at once.
            b.HasIndex(r => new { r.RoutineId, r.MemberId }).IsUnique().HasFilter("ended_at is null").HasDatabaseName("ix_routine_runs_open");
            b.HasIndex(r => new { r.RoutineId, r.BegunAt });
            b.HasIndex(r => r.MemberId);
            b.HasOne<Routine>().WithMany().HasForeignKey(r => r.RoutineId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Member>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Restrict);
        }

        public void Configure(EntityTypeBuilder<RoutineDone> b)
        {
            b.ToTable("routine_done");
            b.HasKey(d => new { d.RunId, d.Step, d.Turn });
            b.Property(d => d.What).HasMaxLength(300);
            b.HasOne<RoutineRun>().WithMany().HasForeignKey(d => d.RunId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<TeamTask> b)
        {
            b.ToTable("team_tasks");
            b.Property(t => t.Id).ValueGeneratedNever();
            b.Property(t => t.Text).HasMaxLength(Core.Routines.Step.MostText);
            b.Property(t => t.By).HasMaxLength(120);
            b.Property(t => t.DoneBy).HasMaxLength(120);
            b.HasIndex(t => t.MemberId);
            b.HasIndex(t => t.At).HasFilter("done_at is null").HasDatabaseName("ix_team_tasks_open");
            b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<RoutineRun>().WithMany().HasForeignKey(t => t.RunId).OnDelete(DeleteBehavior.SetNull);
        }
    }
}
