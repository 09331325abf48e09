using BrightCircle.Core;
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
        b.Property(p => p.StartPath).HasMaxLength(300).HasDefaultValue("");
        b.Property(p => p.GroupLink).HasMaxLength(Plan.MostGroupLink).HasDefaultValue("");
        b.Property(p => p.GroupWords).HasMaxLength(Plan.MostGroupWords).HasDefaultValue("");
        b.HasOne<Core.Content.Piece>().WithMany().HasForeignKey(p => p.StartPieceId).OnDelete(DeleteBehavior.SetNull);
        b.Property(p => p.Promise).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<Inclusion>>(),
            new ValueComparer<IReadOnlyList<Inclusion>>(
                (x, y) => x!.SequenceEqual(y!), v => v.Aggregate(0, (h, i) => HashCode.Combine(h, i)), v => v.ToArray()));
        b.Property(p => p.PaceOf).HasColumnType("jsonb").HasDefaultValueSql("'{}'").HasConversion(BrightContext.Json<IReadOnlyDictionary<PriceId, Pace>>(),
            BrightContext.JsonComparer<IReadOnlyDictionary<PriceId, Pace>>());
        b.Property(p => p.PromiseNumber).HasDefaultValue(1);
        b.Ignore(p => p.Earlier);
    }
}

sealed class PromiseVersionMapping : IEntityTypeConfiguration<PromiseVersion>
{
    public void Configure(EntityTypeBuilder<PromiseVersion> b)
    {
        b.ToTable("promise_versions");
        b.HasKey(v => new { v.Plan, v.Number });
        b.Property(v => v.Plan).HasColumnName("plan_id");
        b.Property(v => v.Number).ValueGeneratedNever();
        b.Property(v => v.From);
        b.Property(v => v.Promise).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<Inclusion>>(),
            BrightContext.JsonComparer<IReadOnlyList<Inclusion>>());
        b.Property(v => v.PaceOf).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyDictionary<PriceId, Pace>>(),
            BrightContext.JsonComparer<IReadOnlyDictionary<PriceId, Pace>>());
        b.HasOne<Plan>().WithMany().HasForeignKey(v => v.Plan).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class PromiseMoveMapping : IEntityTypeConfiguration<PromiseMove>
{
    public void Configure(EntityTypeBuilder<PromiseMove> b)
    {
        b.ToTable("promise_moves");
        b.Property(m => m.Id).ValueGeneratedNever();
        b.Property(m => m.By).HasMaxLength(120);
        b.HasIndex(m => m.PlanId);
        b.HasOne<Plan>().WithMany().HasForeignKey(m => m.PlanId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class PriceMoveMapping : IEntityTypeConfiguration<PriceMove>
{
    public void Configure(EntityTypeBuilder<PriceMove> b)
    {
        b.ToTable("price_moves");
        b.Property(m => m.Id).ValueGeneratedNever();
        b.Property(m => m.By).HasMaxLength(120);
        b.HasOne<Price>().WithMany().HasForeignKey(m => m.FromPriceId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Price>().WithMany().HasForeignKey(m => m.ToPriceId).OnDelete(DeleteBehavior.Restrict);
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
        b.Property(p => p.Text).HasMaxLength(300).HasDefaultValue("");
        b.Property(p => p.Extra).HasColumnType("jsonb").HasConversion(BrightContext.Json<CheckoutExtra?>());
        b.Property(p => p.NotBy).HasColumnType("jsonb").HasDefaultValueSql("'[]'").HasConversion(BrightContext.Json<IReadOnlyList<PayWay>>(),
            BrightContext.JsonComparer<IReadOnlyList<PayWay>>());
        b.Property(p => p.Pause).HasColumnType("jsonb").HasConversion(BrightContext.Json<PauseRule?>());
        b.Property(p => p.Buyers).HasColumnType("jsonb").HasConversion(BrightContext.Json<BuyerRule?>(), BrightContext.JsonComparer<BuyerRule?>());
        b.HasOne<Plan>().WithMany().HasForeignKey(p => p.PlanId).OnDelete(DeleteBehavior.Restrict);
    }
}
