using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>Something one of the team did to the house itself, or looked at. What is done to a member stands in their journal.</summary>
    public sealed class Deed
    {
        public long Id { get; init; }
        public Instant At { get; init; }
        public long AccountId { get; init; }
        /// <summary>As they were called then.</summary>
        public string By { get; init; } = "";
        /// <summary>A sentence part that stands after their name.</summary>
        public string What { get; init; } = "";
        /// <summary>Where it can be looked at; empty for nowhere.</summary>
        public string Path { get; init; } = "";
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class DeedMapping : IEntityTypeConfiguration<Deed>
    {
        public void Configure(EntityTypeBuilder<Deed> b)
        {
            b.ToTable("deeds");
            b.Property(d => d.Id).ValueGeneratedNever();
            b.Property(d => d.By).HasMaxLength(120);
            b.Property(d => d.What).HasMaxLength(400);
            b.Property(d => d.Path).HasMaxLength(300);
            b.HasIndex(d => d.At);
        }
    }
}
