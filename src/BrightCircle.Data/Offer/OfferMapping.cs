using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class PlanMapping : IEntityTypeConfiguration<Plan>
{
    public void Configure(EntityTypeBuilder<Plan> b)
    {
        b.ToTable("plans");
        b.Property(p => p.Id).ValueGeneratedNever();
        b.Property(p => p.Name).HasMaxLength(80);
        b.HasIndex(p => p.Name).IsUnique();
        b.Ignore(p => p.IsTier);
        b.Ignore(p => p.Word);
        b.ToTable(t => t.HasCheckConstraint("ck_plans_rank", "(kind = 'Pass') = (rank = 0)"));
        b.Property(p => p.Promise).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<Inclusion>>(),
            new ValueComparer<IReadOnlyList<Inclusion>>(
                (x, y) => x!.SequenceEqual(y!), v => v.Aggregate(0, (h, i) => HashCode.Combine(h, i)), v => v.ToArray()));
    }
}

sealed class PriceMapping : IEntityTypeConfiguration<Price>
{
    public void Configure(EntityTypeBuilder<Price> b)
    {
        b.ToTable("prices");
        b.Property(p => p.Id).ValueGeneratedNever();
        b.Property(p => p.Name).HasMaxLength(80);
        b.Property(p => p.Button).HasMaxLength(60);
        b.Property(p => p.Code).HasMaxLength(40);
        b.HasIndex(p => p.Code).IsUnique();
        b.Property(p => p.Terms).HasColumnType("jsonb").HasConversion(BrightContext.Json<PriceTerms>());
        b.HasOne<Plan>().WithMany().HasForeignKey(p => p.PlanId).OnDelete(DeleteBehavior.Restrict);
    }
}
