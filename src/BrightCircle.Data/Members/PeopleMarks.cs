using BrightCircle.Core;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace BrightCircle.Data
{
    /// <summary>A tag somebody bears because it was put on.</summary>
    public sealed class MemberTag
    {
        public MemberId MemberId { get; init; }
        public TagId TagId { get; init; }
        public Instant At { get; init; }
        /// <summary>Who of the team put it on; null where it came by itself.</summary>
        public string? By { get; init; }
    }

    /// <summary>What stands in one of the owner's own fields for a member. No row: nothing.</summary>
    public sealed class OwnFieldValue
    {
        public OwnFieldId FieldId { get; init; }
        public MemberId MemberId { get; init; }
        /// <summary>As it is shown and typed, whatever its kind.</summary>
        public string Text { get; set; } = "";
        /// <summary>The same for a field of numbers.</summary>
        public decimal? Number { get; set; }
        /// <summary>The same for a field of dates.</summary>
        public LocalDate? Date { get; set; }
    }

    /// <summary>What the team wants to remember of a member. Only the team sees it.</summary>
    public sealed class TeamNote
    {
        public long Id { get; init; }
        public MemberId MemberId { get; init; }
        public string Text { get; set; } = "";
        public Instant At { get; init; }
        public string By { get; init; } = "";
    }

    /// <summary>When a member was last here, to within some minutes.</summary>
    public sealed class LastSeen
    {
        public MemberId MemberId { get; init; }
        public Instant At { get; init; }
    }
}

namespace BrightCircle.Data.Mapping
{
    sealed class PeopleMarksMapping : IEntityTypeConfiguration<Tag>, IEntityTypeConfiguration<MemberTag>, IEntityTypeConfiguration<OwnField>,
        IEntityTypeConfiguration<OwnFieldValue>, IEntityTypeConfiguration<TeamNote>, IEntityTypeConfiguration<LastSeen>, IEntityTypeConfiguration<Audience>
    {
        public void Configure(EntityTypeBuilder<Tag> b)
        {
            b.ToTable("tags", t => t.HasCheckConstraint("ck_tags_colour", "colour between 1 and 8"));
            b.Property(t => t.Id).ValueGeneratedNever();
            b.Property(t => t.Name).HasMaxLength(Tag.MostName);
            b.Property(t => t.Group).HasMaxLength(Tag.MostGroup);
            b.Property(t => t.Follows).HasColumnType("jsonb").HasConversion(BrightContext.Json<Condition?>(), BrightContext.JsonComparer<Condition?>());
            b.Ignore(t => t.IsByItself);
            b.HasIndex(t => t.Name).IsUnique();
        }

        public void Configure(EntityTypeBuilder<MemberTag> b)
        {
            b.ToTable("member_tags");
            b.HasKey(t => new { t.MemberId, t.TagId });
            b.Property(t => t.By).HasMaxLength(120);
            b.HasIndex(t => t.TagId);
            b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<Tag>().WithMany().HasForeignKey(t => t.TagId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<OwnField> b)
        {
            b.ToTable("own_fields");
            b.Property(f => f.Id).ValueGeneratedNever();
            b.Property(f => f.Name).HasMaxLength(OwnField.MostName);
            b.Property(f => f.Choices).HasColumnType("jsonb").HasConversion(BrightContext.Json<IReadOnlyList<string>>(),
                BrightContext.JsonComparer<IReadOnlyList<string>>());
            b.Ignore(f => f.IsTheirs);
            b.HasIndex(f => f.Name).IsUnique();
        }

        public void Configure(EntityTypeBuilder<OwnFieldValue> b)
        {
            b.ToTable("own_field_values");
            b.HasKey(v => new { v.FieldId, v.MemberId });
            b.Property(v => v.Text).HasMaxLength(OwnField.MostText);
            b.HasIndex(v => v.MemberId);
            b.HasOne<Member>().WithMany().HasForeignKey(v => v.MemberId).OnDelete(DeleteBehavior.Restrict);
            b.HasOne<OwnField>().WithMany().HasForeignKey(v => v.FieldId).OnDelete(DeleteBehavior.Cascade);
        }

        public void Configure(EntityTypeBuilder<TeamNote> b)
        {
            b.ToTable("team_notes");
            b.Property(n => n.Id).ValueGeneratedNever();
            b.Property(n => n.Text).HasMaxLength(4000);
            b.Property(n => n.By).HasMaxLength(120);
            b.HasIndex(n => new { n.MemberId, n.At });
            b.HasOne<Member>().WithMany().HasForeignKey(n => n.MemberId).OnDelete(DeleteBehavior.Restrict);
        }

        public void Configure(EntityTypeBuilder<LastSeen> b)
        {
            b.ToTable("last_seen");
            b.HasKey(s => s.MemberId);
            b.HasIndex(s => s.At);
            b.HasOne<Member>().WithMany().HasForeignKey(s => s.MemberId).OnDelete(DeleteBehavior.Restrict);
        }

        public void Configure(EntityTypeBuilder<Audience> b)
        {
            b.ToTable("audiences");
            b.Property(a => a.Id).ValueGeneratedNever();
            b.Property(a => a.Name).HasMaxLength(Audience.MostName);
            b.Property(a => a.Condition).HasColumnType("jsonb").HasConversion(BrightContext.Json<Condition>(), BrightContext.JsonComparer<Condition>());
            b.HasIndex(a => a.Name).IsUnique();
        }
    }
}
