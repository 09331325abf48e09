using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class SitePageMapping : IEntityTypeConfiguration<SitePage>
{
    public void Configure(EntityTypeBuilder<SitePage> b)
    {
        b.ToTable("site_pages", t =>
        {
            t.HasCheckConstraint("ck_site_pages_plan", "(plan_id is not null) = (kind in ('Plan', 'Join'))");
            t.HasCheckConstraint("ck_site_pages_price", "(price_id is not null) = (kind = 'Confirmation')");
        });
        b.Property(p => p.Id).ValueGeneratedNever();
        b.Property(p => p.Slug).HasMaxLength(SitePage.LongestSlug);
        b.Property(p => p.Title).HasMaxLength(SitePage.LongestTitle);
        b.Property(p => p.Description).HasMaxLength(SitePage.LongestDescription);
        b.Property(p => p.ChangedBy).HasMaxLength(120);
        b.Property(p => p.Version).IsConcurrencyToken();
        b.Property(p => p.Sections).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<IReadOnlyList<Block>>(), BrightContext.JsonComparer<IReadOnlyList<Block>>());
        b.HasIndex(p => p.Slug).IsUnique().HasFilter("slug <> ''");
        // One of its kind for the site, a plan, a price.
        b.HasIndex(p => new { p.Kind, p.PlanId, p.PriceId }).IsUnique().AreNullsDistinct(false).HasFilter("kind <> 'Free'");
        b.HasOne<Plan>().WithMany().HasForeignKey(p => p.PlanId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Price>().WithMany().HasForeignKey(p => p.PriceId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<StoredFile>().WithMany().HasForeignKey(p => p.Picture).OnDelete(DeleteBehavior.Restrict);
    }
}
