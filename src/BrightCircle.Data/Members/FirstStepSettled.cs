using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>A first step that a member did, or put away.</summary>
    public sealed class FirstStepSettled
    {
        public MemberId MemberId { get; init; }
        public FirstStep Step { get; init; }
        public Instant At { get; set; }
        /// <summary>They didn't do it, and don't want to see it any more.</summary>
        public bool PutAway { get; set; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class FirstStepMapping : IEntityTypeConfiguration<FirstStepSettled>
    {
        public void Configure(EntityTypeBuilder<FirstStepSettled> b)
        {
            b.ToTable("first_steps");
            b.HasKey(s => new { s.MemberId, s.Step });
            b.HasOne<Member>().WithMany().HasForeignKey(s => s.MemberId).OnDelete(DeleteBehavior.Restrict);
        }
    }
}
