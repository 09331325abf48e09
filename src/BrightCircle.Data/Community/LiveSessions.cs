using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>Somebody who comes to a live session, waits for a seat, or was there.</summary>
    public sealed class SessionPerson
    {
        public LiveSessionId SessionId { get; init; }
        public MemberId MemberId { get; init; }
        public Instant At { get; init; }
        /// <summary>All seats were taken.</summary>
        public bool Waiting { get; set; }
        /// <summary>They said afterwards that they don’t come.</summary>
        public Instant? WithdrawnAt { get; set; }
        /// <summary>They went in, or were marked by hand.</summary>
        public Instant? CameAt { get; set; }
        /// <summary>Whoever of the team marked them; null where they went in themselves.</summary>
        public string? MarkedBy { get; set; }
    }

    /// <summary>A question brought to a live session.</summary>
    public sealed class SessionQuestion
    {
        public const int MostText = 1000;

        public long Id { get; init; }
        public LiveSessionId SessionId { get; init; }
        public MemberId MemberId { get; init; }
        public string Text { get; init; } = "";
        public Instant At { get; init; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class LiveMapping : IEntityTypeConfiguration<LiveSeries>, IEntityTypeConfiguration<LiveSession>, IEntityTypeConfiguration<SessionPerson>,
        IEntityTypeConfiguration<SessionQuestion>
    {
        public void Configure(EntityTypeBuilder<LiveSeries> b)
        {
            b.ToTable("live_series");
            b.Property(s => s.Id).ValueGeneratedNever();
            b.Property(s => s.Name).HasMaxLength(LiveSeries.MostName);
            b.Property(s => s.About).HasMaxLength(LiveSeries.MostAbout);
            b.Property(s => s.Host).HasMaxLength(LiveSeries.MostHost);
            b.Property(s => s.Place).HasMaxLength(LiveSeries.MostPlace);
            b.Property(s => s.Hours).HasColumnType("jsonb").HasConversion(BrightContext.Json<FreeTimes?>());
            b.HasOne<Account>().WithMany().HasForeignKey(s => s.HostId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<Core.Content.Piece>().WithMany().HasForeignKey(s => s.PieceId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(s => s.Name).IsUnique();
        }

        public void Configure(EntityTypeBuilder<LiveSession> b)
        {
            b.ToTable("live_sessions");
            b.Property(s => s.Id).ValueGeneratedNever();
            b.Property(s => s.Title).HasMaxLength(LiveSeries.MostName);
            b.Property(s => s.Place).HasMaxLength(LiveSeries.MostPlace);
            b.Property(s => s.Why).HasMaxLength(LiveSession.MostWhy);
            b.HasOne<LiveSeries>().WithMany().HasForeignKey(s => s.SeriesId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Lesson>().WithMany().HasForeignKey(s => s.LessonId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(s => new { s.SeriesId, s.StartsAt });
        }

        public void Configure(EntityTypeBuilder<SessionPerson> b)
        {
            b.ToTable("session_people");
            b.HasKey(p => new { p.SessionId, p.MemberId });
            b.Property(p => p.MarkedBy).HasMaxLength(120);
            b.HasOne<LiveSession>().WithMany().HasForeignKey(p => p.SessionId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Member>().WithMany().HasForeignKey(p => p.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(p => p.MemberId);
        }

        public void Configure(EntityTypeBuilder<SessionQuestion> b)
        {
            b.ToTable("session_questions");
            b.Property(q => q.Id).ValueGeneratedNever();
            b.Property(q => q.Text).HasMaxLength(SessionQuestion.MostText);
            b.HasOne<LiveSession>().WithMany().HasForeignKey(q => q.SessionId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Member>().WithMany().HasForeignKey(q => q.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasIndex(q => new { q.SessionId, q.Id });
            b.HasIndex(q => q.MemberId);
        }
    }
}
