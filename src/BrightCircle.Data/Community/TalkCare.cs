using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    public enum ReportOutcome { LeftStanding, TakenAway }

    /// <summary>Somebody says that what was written doesn’t belong.</summary>
    public sealed class TalkReport
    {
        public const int MostWhy = 500;

        public long Id { get; init; }
        public long PostId { get; init; }
        /// <summary>Who says so; null when they were deleted.</summary>
        public long? AccountId { get; init; }
        public string Name { get; init; } = "";
        public string Why { get; init; } = "";
        public Instant At { get; init; }
        public Instant? SettledAt { get; set; }
        public string? SettledBy { get; set; }
        public ReportOutcome? Outcome { get; set; }
    }

    /// <summary>Somebody can’t write in spaces for a time.</summary>
    public sealed class TalkBar
    {
        public const int MostWhy = 500;

        public long AccountId { get; init; }
        public Instant Until { get; set; }
        public string Why { get; set; } = "";
        public string By { get; set; } = "";
        public Instant At { get; set; }
    }

    /// <summary>Somebody follows a thread, or wants to hear nothing of it.</summary>
    public sealed class TalkFollow
    {
        public long AccountId { get; init; }
        public long ThreadId { get; init; }
        public bool Follows { get; set; }
    }

    /// <summary>When somebody is told of what is said in a space.</summary>
    public sealed class SpaceTelling
    {
        public long AccountId { get; init; }
        public SpaceId SpaceId { get; init; }
        public Telling Telling { get; set; }
    }

    public enum DialogueState
    {
        /// <summary>The team is to answer.</summary>
        Open,
        /// <summary>The team waits for an answer, or for something else.</summary>
        Waiting,
        Done,
    }

    /// <summary>What a member and the team write to each other: one conversation for each member.</summary>
    public sealed class Dialogue
    {
        public MemberId MemberId { get; init; }
        public Instant OpenedAt { get; init; }
        public Instant LastAt { get; set; }
        public bool LastByTeam { get; set; }
        public DialogueState State { get; set; }
        /// <summary>Whoever of the team has taken it; null for nobody.</summary>
        public long? AssignedId { get; set; }
        /// <summary>When the member was in it last.</summary>
        public Instant? SeenAt { get; set; }
    }

    public sealed class Message
    {
        public const int MostBody = 20_000, MostMailId = 200;

        public long Id { get; init; }
        public MemberId MemberId { get; init; }
        /// <summary>Who wrote it; null when they were deleted.</summary>
        public long? AccountId { get; init; }
        public string Name { get; init; } = "";
        public bool ByTeam { get; init; }
        /// <summary>Rich text as it is kept.</summary>
        public string Body { get; init; } = "";
        /// <summary>The Message-ID of the letter it came by; null where it was written here.</summary>
        public string? MailId { get; init; }
        public Instant At { get; init; }
    }

    /// <summary>An answer kept for the next time.</summary>
    public sealed class SavedAnswer
    {
        public const int MostName = 80, MostBody = 4000;

        public long Id { get; init; }
        public string Name { get; set; } = "";
        /// <summary>As it is typed.</summary>
        public string Body { get; set; } = "";
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class TalkCareMapping : IEntityTypeConfiguration<TalkReport>, IEntityTypeConfiguration<TalkBar>, IEntityTypeConfiguration<TalkFollow>,
        IEntityTypeConfiguration<SpaceTelling>, IEntityTypeConfiguration<Dialogue>, IEntityTypeConfiguration<Message>, IEntityTypeConfiguration<SavedAnswer>,
        IEntityTypeConfiguration<Challenge>
    {
        public void Configure(EntityTypeBuilder<TalkReport> b)
        {
            b.ToTable("talk_reports");
            b.Property(r => r.Id).ValueGeneratedNever();
            b.Property(r => r.Name).HasMaxLength(120);
            b.Property(r => r.Why).HasMaxLength(TalkReport.MostWhy);
            b.Property(r => r.SettledBy).HasMaxLength(120);
            b.HasOne<TalkPost>().WithMany().HasForeignKey(r => r.PostId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(r => r.AccountId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(r => new { r.PostId, r.AccountId }).IsUnique();
            b.HasIndex(r => r.At).HasFilter("settled_at is null");
        }

        public void Configure(EntityTypeBuilder<TalkBar> b)
        {
            b.ToTable("talk_bars");
            b.HasKey(x => x.AccountId);
            b.Property(x => x.AccountId).ValueGeneratedNever();
            b.Property(x => x.Why).HasMaxLength(TalkBar.MostWhy);
            b.Property(x => x.By).HasMaxLength(120);
            b.HasOne<Account>().WithMany().HasForeignKey(x => x.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<TalkFollow> b)
        {
            b.ToTable("talk_follows");
            b.HasKey(f => new { f.AccountId, f.ThreadId });
            b.HasOne<TalkThread>().WithMany().HasForeignKey(f => f.ThreadId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(f => f.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<SpaceTelling> b)
        {
            b.ToTable("space_tellings");
            b.HasKey(t => new { t.AccountId, t.SpaceId });
            b.HasOne<Space>().WithMany().HasForeignKey(t => t.SpaceId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(t => t.AccountId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<Dialogue> b)
        {
            b.ToTable("dialogues");
            b.HasKey(d => d.MemberId);
            b.Property(d => d.MemberId).ValueGeneratedNever();
            b.HasOne<Member>().WithMany().HasForeignKey(d => d.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(d => d.AssignedId).OnDelete(DeleteBehavior.SetNull);
            b.HasIndex(d => new { d.State, d.LastAt });
        }

        public void Configure(EntityTypeBuilder<Message> b)
        {
            b.ToTable("messages");
            b.Property(m => m.Id).ValueGeneratedNever();
            b.Property(m => m.Name).HasMaxLength(120);
            b.Property(m => m.Body).HasMaxLength(Message.MostBody);
            b.HasOne<Member>().WithMany().HasForeignKey(m => m.MemberId).OnDelete(DeleteBehavior.Cascade);
            b.HasOne<Account>().WithMany().HasForeignKey(m => m.AccountId).OnDelete(DeleteBehavior.SetNull);
            b.Property(m => m.MailId).HasMaxLength(Message.MostMailId);
            b.HasIndex(m => new { m.MemberId, m.Id });
            b.HasIndex(m => new { m.MemberId, m.MailId }).IsUnique().HasFilter("mail_id is not null");
        }

        public void Configure(EntityTypeBuilder<SavedAnswer> b)
        {
            b.ToTable("saved_answers");
            b.Property(a => a.Id).ValueGeneratedNever();
            b.Property(a => a.Name).HasMaxLength(SavedAnswer.MostName);
            b.Property(a => a.Body).HasMaxLength(SavedAnswer.MostBody);
            b.HasIndex(a => a.Name).IsUnique();
        }

        public void Configure(EntityTypeBuilder<Challenge> b)
        {
            b.ToTable("challenges");
            b.Property(c => c.Id).ValueGeneratedNever();
            b.Property(c => c.Name).HasMaxLength(Challenge.MostName);
            b.Property(c => c.About).HasMaxLength(Challenge.MostAbout);
            b.HasOne<Tally>().WithMany().HasForeignKey(c => c.TallyId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Plan>().WithMany().HasForeignKey(c => c.PlanId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Space>().WithMany().HasForeignKey(c => c.SpaceId).OnDelete(DeleteBehavior.SetNull);
            b.HasOne<Tag>().WithMany().HasForeignKey(c => c.BadgeId).OnDelete(DeleteBehavior.Restrict);
            b.HasIndex(c => c.Name).IsUnique();
        }
    }
}
