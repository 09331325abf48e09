using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>A link that gives a plan to whoever has it, as often as it may be used.</summary>
    public sealed class KeyLink
    {
        public long Id { get; init; }
        /// <summary>The last part of its address; long enough not to be guessed.</summary>
        public string Code { get; init; } = "";
        public PlanId PlanId { get; init; }
        /// <summary>What it is for, for the team.</summary>
        public string Name { get; set; } = "";
        /// <summary>What was paid for it elsewhere, in words; empty for nothing.</summary>
        public string PaidElsewhere { get; set; } = "";
        /// <summary>How often it can be used; null for as often as anybody likes.</summary>
        public int? Most { get; set; }
        /// <summary>Until when it can be used, UTC.</summary>
        public Instant? EndsAt { get; set; }
        /// <summary>The last day that what it gives is open; null for good.</summary>
        public LocalDate? OpenUntil { get; init; }
        public bool AllAtOnce { get; init; }
        /// <summary>The order that paid for it: it is a voucher. Null for what the team made.</summary>
        public long? OrderId { get; init; }
        /// <summary>For a voucher, the price it was bought at: how long it is open counts from when it is used.</summary>
        public PriceId? PriceId { get; init; }
        public Instant MadeAt { get; init; }
        public string MadeBy { get; init; } = "";
        public Instant? RevokedAt { get; set; }

        public bool IsOver(Instant at) => RevokedAt is not null || EndsAt <= at;
    }

    /// <summary>A seat of a group: somebody was invited to it, and took it or didn't yet.</summary>
    public sealed class GroupSeat
    {
        public long Id { get; init; }
        /// <summary>The group's holding.</summary>
        public HoldingId HoldingId { get; init; }
        public string Email { get; init; } = "";
        /// <summary>The last part of the invitation's address.</summary>
        public string Code { get; init; } = "";
        public Instant InvitedAt { get; init; }
        public MemberId? MemberId { get; set; }
        public Instant? TakenAt { get; set; }
        /// <summary>It was taken back and is free for somebody else.</summary>
        public Instant? FreedAt { get; set; }
    }

    public enum PeopleBatchKind { Gifts, MoveIn }

    /// <summary>Something done for many people, some at a time, away from the page.</summary>
    public sealed class PeopleBatch
    {
        public long Id { get; init; }
        public PeopleBatchKind Kind { get; init; }
        public Instant At { get; init; }
        public string By { get; init; } = "";
        /// <summary>What is done, as JSON.</summary>
        public string Terms { get; init; } = "{}";
        /// <summary>For gifts: to whom.</summary>
        public long[] Members { get; init; } = [];
        /// <summary>For a moving in: the file, as text.</summary>
        public string Source { get; init; } = "";
        public int Total { get; init; }
        /// <summary>How many have been seen to.</summary>
        public int Next { get; set; }
        public int Did { get; set; }
        /// <summary>For whom there was nothing to do.</summary>
        public int Already { get; set; }
        /// <summary>What couldn't be done, a sentence each.</summary>
        public string[] Refused { get; set; } = [];
        public Instant? DoneAt { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class RightsMapping : IEntityTypeConfiguration<KeyLink>, IEntityTypeConfiguration<GroupSeat>, IEntityTypeConfiguration<PeopleBatch>
    {
        public void Configure(EntityTypeBuilder<KeyLink> b)
        {
            b.ToTable("key_links", t => t.HasCheckConstraint("ck_key_links_most", "most is null or most between 1 and 100000"));
            b.Property(k => k.Id).ValueGeneratedNever();
            b.Property(k => k.Code).HasMaxLength(40);
            b.Property(k => k.Name).HasMaxLength(120);
            b.Property(k => k.PaidElsewhere).HasMaxLength(120);
            b.Property(k => k.MadeBy).HasMaxLength(120);
            b.HasIndex(k => k.Code).IsUnique();
            b.HasIndex(k => k.OrderId).IsUnique();
            b.HasOne<Checkout>().WithMany().HasForeignKey(k => k.OrderId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Price>().WithMany().HasForeignKey(k => k.PriceId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Plan>().WithMany().HasForeignKey(k => k.PlanId).OnDelete(DeleteBehavior.Restrict);
        }

        public void Configure(EntityTypeBuilder<GroupSeat> b)
        {
            b.ToTable("group_seats");
            b.Property(s => s.Id).ValueGeneratedNever();
            b.Property(s => s.Email).HasMaxLength(254);
            b.Property(s => s.Code).HasMaxLength(40);
            b.HasIndex(s => s.Code).IsUnique();
            b.HasIndex(s => s.HoldingId);
            b.HasOne<Holding>().WithMany().HasForeignKey(s => s.HoldingId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Member>().WithMany().HasForeignKey(s => s.MemberId).OnDelete(DeleteBehavior.Restrict);
        }

        public void Configure(EntityTypeBuilder<PeopleBatch> b)
        {
            b.ToTable("people_batches");
            b.Property(p => p.Id).ValueGeneratedNever();
            b.Property(p => p.By).HasMaxLength(120);
            b.Property(p => p.Terms).HasColumnType("jsonb");
            b.HasIndex(p => p.At);
        }
    }
}
