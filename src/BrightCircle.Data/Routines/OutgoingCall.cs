using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    public enum CallState
    {
        Waiting,
        /// <summary>The other program took it.</summary>
        Taken,
        /// <summary>It was tried for days, or the other program said that it never will.</summary>
        GivenUp,
    }

    /// <summary>What another program is told of a member.</summary>
    public sealed class OutgoingCall
    {
        public long Id { get; init; }
        public MemberId MemberId { get; init; }
        public long RoutineId { get; init; }
        public string Url { get; init; } = "";
        /// <summary>What is posted, as JSON.</summary>
        public string Body { get; init; } = "";
        /// <summary>The same thing is never put in twice, and can be told by it where it arrives twice.</summary>
        public string Key { get; init; } = "";
        public Instant At { get; init; }
        public CallState State { get; set; }
        /// <summary>While it waits: not before.</summary>
        public Instant NextAt { get; set; }
        public int Tries { get; set; }
        /// <summary>What came back last.</summary>
        public string Answer { get; set; } = "";
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class OutgoingCallMapping : IEntityTypeConfiguration<OutgoingCall>
    {
        public void Configure(EntityTypeBuilder<OutgoingCall> b)
        {
            b.ToTable("outgoing_calls");
            b.Property(c => c.Id).ValueGeneratedNever();
            b.Property(c => c.Url).HasMaxLength(400);
            b.Property(c => c.Body).HasMaxLength(4000);
            b.Property(c => c.Key).HasMaxLength(80);
            b.Property(c => c.Answer).HasMaxLength(300);
            b.HasIndex(c => c.Key).IsUnique();
            b.HasIndex(c => c.NextAt).HasFilter("state = 'Waiting'").HasDatabaseName("ix_outgoing_calls_waiting");
            b.HasIndex(c => c.Id).HasFilter("state = 'GivenUp'").HasDatabaseName("ix_outgoing_calls_given_up");
            b.HasIndex(c => c.MemberId);
            b.HasIndex(c => c.RoutineId);
            b.HasOne<Member>().WithMany().HasForeignKey(c => c.MemberId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Core.Routines.Routine>().WithMany().HasForeignKey(c => c.RoutineId).OnDelete(DeleteBehavior.Restrict);
        }
    }
}
