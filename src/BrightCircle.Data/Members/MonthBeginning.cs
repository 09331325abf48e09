using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>How many members each tier had when a month began: counted once, when somebody first asks, since what was doesn't change.</summary>
    public sealed class MonthBeginning
    {
        /// <summary>Its first day.</summary>
        public LocalDate Month { get; init; }
        /// <summary>By the number of the tier.</summary>
        public Dictionary<string, int> Members { get; init; } = [];
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class MonthBeginningMapping : IEntityTypeConfiguration<MonthBeginning>
    {
        public void Configure(EntityTypeBuilder<MonthBeginning> b)
        {
            b.ToTable("month_beginnings");
            b.HasKey(m => m.Month);
            b.Property(m => m.Members).HasColumnType("jsonb").HasConversion(BrightContext.Json<Dictionary<string, int>>(), Dictionaries.Comparer<int>());
        }
    }
}
