using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>How far a letter to many has come; worked out from what is written down.</summary>
    public enum MailingState { Draft, Planned, Going, Paused, Stopped, Done }

    /// <summary>What came of trying two subjects: how many got each, and how many of them opened a link.</summary>
    public sealed record SubjectsTried(int First, int FirstOpened, int Other, int OtherOpened)
    {
        /// <summary>A larger share of its readers opened a link; where they are equal, the first one stays.</summary>
        public bool OtherIsBetter => (long)OtherOpened * First > (long)FirstOpened * Other;
    }

    /// <summary>A letter to many: what it says, to whom it goes, and how far it has come. Each copy is a row of the outbox.</summary>
    public sealed class Mailing
    {
        public const int MostSubject = 150, MostPreheader = 150, MostBody = 60_000, MostPerHour = 100_000;

        public long Id { get; init; }
        public string Subject { get; set; } = "";
        /// <summary>What mail programs show beside the subject; empty for the letter's own beginning.</summary>
        public string Preheader { get; set; } = "";
        /// <summary>Rich text as it is kept, with fields in double braces.</summary>
        public string Body { get; set; } = "";
        /// <summary>To whom it goes; null while that isn't chosen.</summary>
        public AudienceId? AudienceId { get; set; }
        /// <summary>The series it belongs to, and the Monday of its week; null for a letter by itself.</summary>
        public long? SeriesId { get; set; }
        public LocalDate? Week { get; set; }
        /// <summary>The routine it is a step of; null for a letter that is sent by hand.</summary>
        public long? RoutineId { get; init; }
        /// <summary>The one member it is written to; null for a letter to many.</summary>
        public MemberId? MemberId { get; init; }
        /// <summary>Goes out as plain text only.</summary>
        public bool Plain { get; set; }
        /// <summary>A picture above its words; it goes along with the letter.</summary>
        public FileId? PictureId { get; set; }
        /// <summary>So many an hour at most; null for as fast as they are taken.</summary>
        public int? PerHour { get; set; }
        /// <summary>Counts up with each saving: two people at once are told.</summary>
        public int Version { get; set; } = 1;
        /// <summary>A second subject, tried beside the first on so many of a hundred readers, for so many hours; null where there is one.</summary>
        public string? OtherSubject { get; set; }
        public int? TryPart { get; set; }
        public int? TryHours { get; set; }
        /// <summary>The copies of the try are in the outbox since then.</summary>
        public Instant? TriedAt { get; set; }
        /// <summary>Null until it is decided.</summary>
        public SubjectsTried? Tried { get; set; }
        public Instant MadeAt { get; init; }
        public Instant ChangedAt { get; set; }
        public string ChangedBy { get; set; } = "";

        /// <summary>When it is to go, on the site's clock, or on each reader's; null while that isn't said.</summary>
        public LocalDateTime? SendAt { get; set; }
        public bool WhereTheyLive { get; set; }
        public Instant? BegunAt { get; set; }
        public Instant? PausedAt { get; set; }
        public Instant? StoppedAt { get; set; }
        /// <summary>Every copy is in the outbox.</summary>
        public Instant? WrittenAt { get; set; }
        /// <summary>The last member who was looked at: the numbers of those who follow are higher.</summary>
        public MemberId After { get; set; }

        public MailingState State => StoppedAt is not null ? MailingState.Stopped : PausedAt is not null ? MailingState.Paused
            : WrittenAt is not null ? MailingState.Done : BegunAt is not null ? MailingState.Going : SendAt is not null ? MailingState.Planned
            : MailingState.Draft;
    }

    /// <summary>Letters to many that come again: the two of each week, say. Members can do without one series and keep the other.</summary>
    public sealed class LetterSeries
    {
        public const int MostName = 40;

        public long Id { get; init; }
        public string Name { get; set; } = "";
        /// <summary>The usual weekday, 1 for Monday to 7, and time.</summary>
        public int Day { get; set; } = 1;
        public LocalTime At { get; set; } = new(9, 0);
        /// <summary>The usual audience.</summary>
        public AudienceId? AudienceId { get; set; }
        public int Order { get; set; }
    }

    /// <summary>A member asked for no more letters of a series.</summary>
    public sealed class SeriesRefusal
    {
        public MemberId MemberId { get; init; }
        public long SeriesId { get; init; }
        public Instant At { get; init; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class MailingMapping : IEntityTypeConfiguration<Mailing>, IEntityTypeConfiguration<LetterSeries>, IEntityTypeConfiguration<SeriesRefusal>
    {
        public void Configure(EntityTypeBuilder<Mailing> b)
        {
            b.ToTable("mailings");
            b.Property(m => m.Id).ValueGeneratedNever();
            b.Property(m => m.Subject).HasMaxLength(Mailing.MostSubject);
            b.Property(m => m.OtherSubject).HasMaxLength(Mailing.MostSubject);
            b.Property(m => m.Tried).HasColumnType("jsonb").HasConversion(BrightContext.Json<SubjectsTried?>());
            b.ToTable(t => t.HasCheckConstraint("ck_mailings_two_subjects",
                "(other_subject is null) = (try_part is null) and (other_subject is null) = (try_hours is null)"));
            b.Property(m => m.Preheader).HasMaxLength(Mailing.MostPreheader);
            b.Property(m => m.Body).HasMaxLength(Mailing.MostBody);
            b.Property(m => m.ChangedBy).HasMaxLength(120);
            b.Property(m => m.Version).IsConcurrencyToken();
            b.Ignore(m => m.State);
            b.HasIndex(m => new { m.SeriesId, m.Week });
            b.HasOne<Audience>().WithMany().HasForeignKey(m => m.AudienceId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<LetterSeries>().WithMany().HasForeignKey(m => m.SeriesId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<StoredFile>().WithMany().HasForeignKey(m => m.PictureId).OnDelete(DeleteBehavior.Restrict);
            b.HasIndex(m => m.RoutineId);
            b.HasIndex(m => m.MemberId);
            b.HasOne<Member>().WithMany().HasForeignKey(m => m.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Core.Routines.Routine>().WithMany().HasForeignKey(m => m.RoutineId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<LetterSeries> b)
        {
            b.ToTable("letter_series", t => t.HasCheckConstraint("ck_letter_series_day", "day between 1 and 7"));
            b.Property(s => s.Id).ValueGeneratedNever();
            b.Property(s => s.Name).HasMaxLength(LetterSeries.MostName);
            b.HasIndex(s => s.Name).IsUnique();
            b.HasOne<Audience>().WithMany().HasForeignKey(s => s.AudienceId).OnDelete(DeleteBehavior.Restrict);
        }

        public void Configure(EntityTypeBuilder<SeriesRefusal> b)
        {
            b.ToTable("series_refusals");
            b.HasKey(r => new { r.MemberId, r.SeriesId });
            b.HasOne<Member>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<LetterSeries>().WithMany().HasForeignKey(r => r.SeriesId).OnDelete(DeleteBehavior.Cascade);
        }
    }
}
