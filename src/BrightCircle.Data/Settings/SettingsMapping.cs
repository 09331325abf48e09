using BrightCircle.Core.Content;
using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class SiteMapping : IEntityTypeConfiguration<Site>
{
    public void Configure(EntityTypeBuilder<Site> b)
    {
        b.ToTable("site", t => t.HasCheckConstraint("ck_site_only_one", "id = 1"));
        b.Property(s => s.Id).ValueGeneratedNever();
        b.Ignore(s => s.ClockCanMove);
        b.Property(s => s.Menu).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<MenuItem>?>(),
            BrightContext.JsonComparer<IReadOnlyList<MenuItem>?>());
        b.HasOne<StoredFile>().WithMany().HasForeignKey(s => s.Logo).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Core.Offer.Plan>().WithMany().HasForeignKey(s => s.ArrivalPlanId).OnDelete(DeleteBehavior.Restrict);
        b.Property(s => s.RetryDays).HasDefaultValueSql("'{1,3,5,7}'");
        b.Property(s => s.Ways).HasColumnType("jsonb").HasDefaultValueSql("""'[{"way":"card","name":"Card"}]'""")
            .HasConversion(BrightContext.Json<IReadOnlyList<Core.Offer.WayOffered>>(), BrightContext.JsonComparer<IReadOnlyList<Core.Offer.WayOffered>>());
        b.HasOne<SitePage>().WithMany().HasForeignKey(s => s.TermsPageId).OnDelete(DeleteBehavior.SetNull);
        b.Property(s => s.Holds).HasColumnType("jsonb").HasDefaultValueSql("'{}'").HasConversion(BrightContext.Json<Core.Community.HoldRules>());
        b.Property(s => s.OwnerLetters).HasColumnType("jsonb").HasDefaultValueSql("'{}'").HasConversion(BrightContext.Json<OwnerLetters>());
        b.Property(s => s.Name).HasMaxLength(80);
        b.Property(s => s.Tagline).HasMaxLength(200);
        b.Property(s => s.ZoneId).HasMaxLength(60);
        b.Property(s => s.Culture).HasMaxLength(20).HasDefaultValue("en-GB");
        b.Property(s => s.BusinessName).HasMaxLength(120);
        b.Property(s => s.BusinessAddress).HasMaxLength(400);
        b.Property(s => s.VideoHosts).HasColumnType("jsonb").HasDefaultValueSql("'[]'")
            .HasConversion(BrightContext.Json<IReadOnlyList<VideoHost>>(), BrightContext.JsonComparer<IReadOnlyList<VideoHost>>());
        b.Property(s => s.Doorway).HasColumnType("jsonb").HasConversion(BrightContext.Json<DoorwayWish?>());
        b.Property(s => s.FirstSteps).HasColumnType("jsonb").HasDefaultValueSql("'[]'")
            .HasConversion(BrightContext.Json<IReadOnlyList<Core.Members.FirstStep>>(), BrightContext.JsonComparer<IReadOnlyList<Core.Members.FirstStep>>());
        b.Property(s => s.HelloWords).HasMaxLength(200).HasDefaultValue("");
        b.Property(s => s.HelpAddress).HasMaxLength(254);
        b.Property(s => s.Language).HasMaxLength(40).HasDefaultValue("english");
        b.Property(s => s.Cadence).HasColumnType("jsonb").HasDefaultValueSql("'[]'")
            .HasConversion(BrightContext.Json<IReadOnlyList<CadenceTarget>>(), BrightContext.JsonComparer<IReadOnlyList<CadenceTarget>>());
        b.Property(s => s.DocumentKinds).HasDefaultValueSql("'{" + string.Join(',', Site.DefaultDocumentKinds) + "}'");
    }
}

sealed class DueWorkMapping : IEntityTypeConfiguration<DueWork>
{
    public void Configure(EntityTypeBuilder<DueWork> b)
    {
        b.ToTable("due_work");
        b.Property(d => d.Id).ValueGeneratedNever();
        b.Property(d => d.Key).HasMaxLength(80);
        b.Property(d => d.Payload).HasColumnType("jsonb");
        b.HasIndex(d => d.Key).IsUnique();
        b.HasIndex(d => new { d.ReadyAt, d.Id });
        b.HasIndex(d => new { d.SubjectId, d.Kind });
    }
}

sealed class LetterMapping : IEntityTypeConfiguration<Letter>
{
    public void Configure(EntityTypeBuilder<Letter> b)
    {
        b.ToTable("letters");
        b.Property(l => l.Id).ValueGeneratedNever();
        b.Property(l => l.ToAddress).HasMaxLength(254);
        b.Property(l => l.ToName).HasMaxLength(120);
        b.Property(l => l.Key).HasMaxLength(80);
        b.Property(l => l.Subject).HasMaxLength(300);
        b.Property(l => l.SetAsideBy).HasMaxLength(120);
        b.HasOne<Core.Members.Member>().WithMany().HasForeignKey(l => l.MemberId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Core.Content.Edition>().WithMany().HasForeignKey(l => l.EditionId).OnDelete(DeleteBehavior.SetNull);
        b.HasOne<SignInLink>().WithMany().HasForeignKey(l => l.SignInLinkId).OnDelete(DeleteBehavior.SetNull);
        b.Property(l => l.Fields).HasColumnType("jsonb").HasConversion(BrightContext.Json<Dictionary<string, string>>(), Dictionaries.Comparer<string>());
        b.HasOne<Core.Offer.Plan>().WithMany().HasForeignKey(l => l.PlanId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<LetterText>().WithMany().HasForeignKey(l => l.TextId).OnDelete(DeleteBehavior.Restrict);
        b.HasIndex(l => new { l.Kind, l.Id });
        b.HasIndex(l => l.Key).IsUnique();
        b.HasOne<Mailing>().WithMany().HasForeignKey(l => l.MailingId).OnDelete(DeleteBehavior.Restrict);
        b.HasIndex(l => new { l.MailingId, l.State }).HasFilter("mailing_id is not null");
        b.HasIndex(l => l.MemberId);
        // Two indexes on one column are told apart by name; without names the second takes the place of the first.
        b.HasIndex(l => l.Id, "queued").HasFilter("state = 'Queued'").HasDatabaseName("ix_letters_queued");
        b.HasIndex(l => l.Id, "refused").HasFilter("state = 'Refused' and set_aside_at is null").HasDatabaseName("ix_letters_refused");
    }
}

sealed class SignInLinkMapping : IEntityTypeConfiguration<SignInLink>
{
    public void Configure(EntityTypeBuilder<SignInLink> b)
    {
        b.ToTable("sign_in_links");
        b.Property(l => l.Id).ValueGeneratedNever();
        b.Property(l => l.ReturnPath).HasMaxLength(300);
        b.HasIndex(l => l.AccountId);
        b.HasOne<Account>().WithMany().HasForeignKey(l => l.AccountId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class ClockMoveMapping : IEntityTypeConfiguration<ClockMove>
{
    public void Configure(EntityTypeBuilder<ClockMove> b)
    {
        b.ToTable("clock_moves");
        b.Property(m => m.Id).ValueGeneratedNever();
        b.Property(m => m.Counts).HasColumnType("jsonb").HasConversion(BrightContext.Json<Dictionary<string, long>>(), Dictionaries.Comparer<long>());
    }
}

sealed class AccountMapping : IEntityTypeConfiguration<Account>
{
    public void Configure(EntityTypeBuilder<Account> b)
    {
        b.ToTable("accounts");
        b.Property(a => a.Id).ValueGeneratedNever();
        b.Property(a => a.Name).HasMaxLength(120);
        b.HasIndex(a => a.NormalizedEmail).IsUnique().HasDatabaseName("ux_accounts_email");
    }
}

sealed class IdentityTables : IEntityTypeConfiguration<IdentityUserClaim<long>>, IEntityTypeConfiguration<IdentityUserLogin<long>>,
    IEntityTypeConfiguration<IdentityUserToken<long>>, IEntityTypeConfiguration<IdentityUserPasskey<long>>, IEntityTypeConfiguration<DataProtectionKey>
{
    public void Configure(EntityTypeBuilder<IdentityUserClaim<long>> b) => b.ToTable("account_claims");
    public void Configure(EntityTypeBuilder<IdentityUserLogin<long>> b) => b.ToTable("account_logins");
    public void Configure(EntityTypeBuilder<IdentityUserToken<long>> b) => b.ToTable("account_tokens");
    public void Configure(EntityTypeBuilder<IdentityUserPasskey<long>> b)
    {
        b.ToTable("account_passkeys");
        b.HasKey(p => p.CredentialId);
        // The longest a credential's name may be: W3C Web Authentication, section 5.1.
        b.Property(p => p.CredentialId).HasMaxLength(1023);
        b.OwnsOne(p => p.Data).ToJson();
        b.HasIndex(p => p.UserId);
        b.HasOne<Account>().WithMany().HasForeignKey(p => p.UserId).OnDelete(DeleteBehavior.Cascade);
    }
    public void Configure(EntityTypeBuilder<DataProtectionKey> b) => b.ToTable("data_protection_keys");
}

static class Dictionaries
{
    public static ValueComparer<Dictionary<string, T>> Comparer<T>() => new(
        (x, y) => x!.Count == y!.Count && x.All(p => y.ContainsKey(p.Key) && Equals(p.Value, y[p.Key])),
        v => v.Count, v => new(v));
}
