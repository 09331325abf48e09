using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class MemberMapping : IEntityTypeConfiguration<Member>
{
    public void Configure(EntityTypeBuilder<Member> b)
    {
        b.ToTable("members");
        b.Property(m => m.Id).ValueGeneratedNever();
        b.Property(m => m.Name).HasMaxLength(120);
        b.Property(m => m.Email).HasMaxLength(254);
        b.Property(m => m.ZoneId).HasMaxLength(60);
        b.Property(m => m.BillingAddress).HasMaxLength(400).HasDefaultValue("");
        b.Property(m => m.PostalAddress).HasMaxLength(400).HasDefaultValue("");
        b.Property(m => m.Phone).HasMaxLength(PhoneNumber.MostLetters).HasDefaultValue("");
        b.Property(m => m.Reads).HasMaxLength(2);
        b.Property(m => m.Standing);
        b.Property(m => m.StandingPlanId);
        b.Property(m => m.StandingSince);
        b.Ignore(m => m.FirstName);
        b.HasIndex(m => new { m.Standing, m.StandingPlanId });
        b.HasIndex(m => m.JoinedAt);
        b.HasIndex(m => m.Name);
        b.HasOne<Plan>().WithMany().HasForeignKey(m => m.StandingPlanId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class HoldingMapping : IEntityTypeConfiguration<Holding>
{
    public void Configure(EntityTypeBuilder<Holding> b)
    {
        b.ToTable("holdings");
        b.Property(h => h.Id).ValueGeneratedNever();
        b.Property(h => h.Note).HasMaxLength(400);
        b.Ignore(h => h.Ending);
        b.Ignore(h => h.IsPaidFor);
        b.Ignore(h => h.IsGiven);
        b.HasIndex(h => h.Through).HasFilter("through is not null");
        b.Ignore(h => h.Timeline);
        b.Ignore(h => h.LivesBy);
        b.Property(h => h.PromiseNumber).HasDefaultValue(1);
        b.Property(h => h.Agreement).HasColumnType("jsonb").HasConversion(BrightContext.Json<Agreement>());
        b.Property(h => h.Way).HasDefaultValue(PayWay.Card);
        b.HasIndex(h => h.MemberId);
        b.HasIndex(h => h.PlanId);
        // A member holds a plan once at a time; what takes the place of it may be there already.
        b.HasIndex(h => new { h.MemberId, h.PlanId }).IsUnique().HasFilter("not is_over and continues is null").HasDatabaseName("ux_holdings_one_at_a_time");
        b.HasOne<Holding>().WithMany().HasForeignKey(h => h.Continues).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Member>().WithMany().HasForeignKey(h => h.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Plan>().WithMany().HasForeignKey(h => h.PlanId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Price>().WithMany().HasForeignKey(h => h.PriceId).OnDelete(DeleteBehavior.Restrict);
        b.HasMany(h => h.Facts).WithOne().HasForeignKey(f => f.HoldingId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class HoldingFactMapping : IEntityTypeConfiguration<HoldingFact>
{
    public void Configure(EntityTypeBuilder<HoldingFact> b)
    {
        b.ToTable("holding_facts", t => t.HasCheckConstraint("ck_holding_facts_stretch", "\"to\" is null or \"to\" >= \"from\""));
        b.HasKey(f => new { f.HoldingId, f.Seq });
        b.Property(f => f.Seq).ValueGeneratedNever();
        b.Property(f => f.Kind);
        b.Property(f => f.At);
        b.Property(f => f.From);
        b.Property(f => f.To);
        b.Property(f => f.Reason);
        b.Property(f => f.PaymentId);
        b.Property(f => f.Promise);
        b.Property(f => f.AmountMinor);
        b.Property(f => f.AmountCurrency).HasMaxLength(3).IsFixedLength();
        b.ToTable(t => t.HasCheckConstraint("ck_holding_facts_credit", "kind <> 'Credit' or amount_minor is not null"));
        b.Ignore(f => f.Amount);
        b.ToTable(t => t.HasCheckConstraint("ck_holding_facts_promise", "(kind = 'Moved') = (promise is not null)"));
        b.Ignore(f => f.IsPaidTime);
        b.HasOne<Core.Billing.Payment>().WithMany().HasForeignKey(f => f.PaymentId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class OpeningMapping : IEntityTypeConfiguration<Opening>
{
    public void Configure(EntityTypeBuilder<Opening> b)
    {
        b.ToTable("openings");
        b.HasKey(o => new { o.MemberId, o.LessonId });
        b.HasIndex(o => o.LessonId);
        b.HasOne<Member>().WithMany().HasForeignKey(o => o.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Lesson>().WithMany().HasForeignKey(o => o.LessonId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class JournalMapping : IEntityTypeConfiguration<JournalEntry>
{
    public void Configure(EntityTypeBuilder<JournalEntry> b)
    {
        b.ToTable("journal");
        b.Property(j => j.Id).ValueGeneratedNever();
        b.Property(j => j.Seq).UseIdentityAlwaysColumn();
        b.Property(j => j.Kind).HasMaxLength(40);
        b.Property(j => j.Event).HasColumnType("jsonb").HasConversion(BrightContext.Json<Core.Events.Event>());
        b.Property(j => j.By).HasMaxLength(120);
        b.HasIndex(j => new { j.MemberId, j.Seq });
        b.HasIndex(j => j.Seq);
        b.HasIndex(j => new { j.Kind, j.Seq });
        b.HasOne<Member>().WithMany().HasForeignKey(j => j.MemberId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class StandingChangeMapping : IEntityTypeConfiguration<StandingChange>
{
    public void Configure(EntityTypeBuilder<StandingChange> b)
    {
        b.ToTable("standing_changes");
        b.Property(s => s.Id).ValueGeneratedNever();
        b.HasIndex(s => s.At);
        b.HasOne<Member>().WithMany().HasForeignKey(s => s.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Plan>().WithMany().HasForeignKey(s => s.PlanId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class StandingCountMapping : IEntityTypeConfiguration<StandingCount>
{
    public void Configure(EntityTypeBuilder<StandingCount> b)
    {
        b.ToTable("standing_counts");
        b.HasKey(c => c.Standing);
        b.Property(c => c.Members).HasDefaultValue(0);
    }
}
