using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace BrightCircle.Data.Mapping;

sealed class ShelfMapping : IEntityTypeConfiguration<Shelf>
{
    public void Configure(EntityTypeBuilder<Shelf> b)
    {
        b.ToTable("shelves", t => t.HasCheckConstraint("ck_shelves_colour", "colour between 1 and 8"));
        b.Property(s => s.Id).ValueGeneratedNever();
        b.Property(s => s.Name).HasMaxLength(80);
        b.Property(s => s.Mark).HasMaxLength(2);
        b.HasIndex(s => s.Name).IsUnique();
        b.Property(s => s.Doorway).HasColumnType("jsonb").HasConversion(BrightContext.Json<DoorwayWish?>());
        b.HasOne<StoredFile>().WithMany().HasForeignKey(s => s.Cover).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class PieceMapping : IEntityTypeConfiguration<Piece>
{
    public void Configure(EntityTypeBuilder<Piece> b)
    {
        b.ToTable("pieces", t => t.HasCheckConstraint("ck_pieces_places", "places is null or places between 1 and 100000"));
        b.Property(p => p.Id).ValueGeneratedNever();
        b.Property(p => p.Title).HasMaxLength(160);
        b.Property(p => p.Subtitle).HasMaxLength(200);
        b.Property(p => p.Summary).HasMaxLength(600);
        b.Property(p => p.ModuleWord).HasMaxLength(20).HasDefaultValue("Module");
        b.Property(p => p.SupportAddress).HasMaxLength(254);
        b.Property(p => p.TrailerUrl).HasMaxLength(500);
        b.Property(p => p.EndLink).HasMaxLength(500);
        b.Property(p => p.EndLinkText).HasMaxLength(80);
        b.Property(p => p.WorkedOnBy).HasMaxLength(60);
        b.Property(p => p.Difficulty).HasDefaultValue(Difficulty.Anyone);
        b.Property(p => p.Resources).HasDefaultValue(ResourcesPlace.WhereWritten);
        b.Property(p => p.Tags).HasDefaultValueSql("'{}'");
        b.Property(p => p.ReleasedAt);
        b.Property(p => p.Version).IsConcurrencyToken();
        b.Property(p => p.Window).HasColumnType("jsonb").HasConversion(BrightContext.Json<Window?>());
        b.Property(p => p.Doorway).HasColumnType("jsonb").HasConversion(BrightContext.Json<DoorwayWish?>());
        b.Ignore(p => p.State);
        b.Ignore(p => p.Outline);
        b.Ignore(p => p.Minutes);
        b.Ignore(p => p.IsCourse);
        b.HasIndex(p => p.TrashedAt).HasFilter("trashed_at is not null");
        b.HasOne<Shelf>().WithMany().HasForeignKey(p => p.ShelfId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Edition>().WithMany().HasForeignKey(p => p.EditionId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<StoredFile>().WithMany().HasForeignKey(p => p.Cover).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<LessonPattern>().WithMany().HasForeignKey(p => p.PatternId).OnDelete(DeleteBehavior.SetNull);
    }
}

sealed class ModuleMapping : IEntityTypeConfiguration<Module>
{
    public void Configure(EntityTypeBuilder<Module> b)
    {
        b.ToTable("modules");
        b.Property(m => m.Id).ValueGeneratedNever();
        b.Property(m => m.Title).HasMaxLength(160);
        b.Property(m => m.Step).HasDefaultValue(-1);
        b.HasOne<Piece>().WithMany().HasForeignKey(m => m.PieceId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class LessonMapping : IEntityTypeConfiguration<Lesson>
{
    public void Configure(EntityTypeBuilder<Lesson> b)
    {
        b.ToTable("lessons", t => t.HasCheckConstraint("ck_lessons_minutes", "minutes is null or minutes between 1 and 6000"));
        b.Property(l => l.Id).ValueGeneratedNever();
        b.Property(l => l.Title).HasMaxLength(160);
        b.Property(l => l.Kinds).HasMaxLength(200);
        b.Property(l => l.ChangedBy).HasMaxLength(120);
        b.Property(l => l.DoneWhen).HasDefaultValue(DoneWhen.Marked);
        b.Property(l => l.ReleasedAt);
        b.Property(l => l.Step).HasDefaultValue(-1);
        b.Property(l => l.Window).HasColumnType("jsonb").HasConversion(BrightContext.Json<Window?>());
        b.Property(l => l.Version).IsConcurrencyToken();
        b.Ignore(l => l.State);
        b.HasIndex(l => new { l.PieceId, l.Position });
        b.HasIndex(l => l.TrashedAt).HasFilter("trashed_at is not null");
        b.HasOne<Piece>().WithMany().HasForeignKey(l => l.PieceId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Module>().WithMany().HasForeignKey(l => l.ModuleId).OnDelete(DeleteBehavior.SetNull);
        b.HasOne<Edition>().WithMany().HasForeignKey(l => l.EditionId).OnDelete(DeleteBehavior.Restrict);
    }
}

sealed class LessonPartsMapping : IEntityTypeConfiguration<LessonContent>, IEntityTypeConfiguration<LessonVersion>, IEntityTypeConfiguration<LessonPattern>,
    IEntityTypeConfiguration<Editing>
{
    public void Configure(EntityTypeBuilder<LessonContent> b)
    {
        b.ToTable("lesson_contents");
        b.HasKey(c => c.LessonId);
        b.Property(c => c.Blocks).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<IReadOnlyList<Block>>(), BrightContext.JsonComparer<IReadOnlyList<Block>>());
        b.HasOne<Lesson>().WithOne().HasForeignKey<LessonContent>(c => c.LessonId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<LessonVersion> b)
    {
        b.ToTable("lesson_versions");
        b.Property(v => v.Id).ValueGeneratedNever();
        b.Property(v => v.Title).HasMaxLength(160);
        b.Property(v => v.By).HasMaxLength(120);
        b.Property(v => v.Blocks).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<IReadOnlyList<Block>>(), BrightContext.JsonComparer<IReadOnlyList<Block>>());
        b.HasIndex(v => new { v.LessonId, v.Version }).IsUnique();
        b.HasOne<Lesson>().WithMany().HasForeignKey(v => v.LessonId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<LessonPattern> b)
    {
        b.ToTable("lesson_patterns");
        b.Property(v => v.Id).ValueGeneratedNever();
        b.Property(v => v.Name).HasMaxLength(80);
        b.HasIndex(v => v.Name).IsUnique();
        b.Property(v => v.Blocks).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<IReadOnlyList<Block>>(), BrightContext.JsonComparer<IReadOnlyList<Block>>());
    }

    public void Configure(EntityTypeBuilder<Editing> b)
    {
        b.ToTable("editing");
        b.HasKey(e => new { e.LessonId, e.AccountId });
        b.Property(e => e.Name).HasMaxLength(120);
        b.HasOne<Lesson>().WithMany().HasForeignKey(e => e.LessonId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Account>().WithMany().HasForeignKey(e => e.AccountId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class EditionMapping : IEntityTypeConfiguration<Edition>
{
    public void Configure(EntityTypeBuilder<Edition> b)
    {
        b.ToTable("editions", t =>
        {
            t.HasCheckConstraint("ck_editions_month", "span <> 'Month' or extract(day from first_day) = 1");
            t.HasCheckConstraint("ck_editions_week", "span <> 'Week' or extract(isodow from first_day) = 1");
        });
        b.Property(e => e.Id).ValueGeneratedNever();
        b.Property(e => e.Title).HasMaxLength(160);
        b.Property(e => e.ReleasedAt);
        b.Ignore(e => e.State);
        b.Ignore(e => e.Month);
        b.HasIndex(e => new { e.Span, e.FirstDay }).IsUnique();
    }
}

sealed class FileMapping : IEntityTypeConfiguration<StoredFile>, IEntityTypeConfiguration<FileUse>, IEntityTypeConfiguration<Upload>
{
    public void Configure(EntityTypeBuilder<StoredFile> b)
    {
        b.ToTable("files");
        b.Property(f => f.Id).ValueGeneratedNever();
        b.Property(f => f.Address).HasMaxLength(60);
        b.Property(f => f.Name).HasMaxLength(200);
        b.Property(f => f.MediaType).HasMaxLength(100);
        b.Property(f => f.Alt).HasMaxLength(500);
        b.Property(f => f.AddedBy).HasMaxLength(120);
        b.Property(f => f.Sizes).HasColumnType("jsonb").HasConversion(BrightContext.Json<Dictionary<string, string>>(), Dictionaries.Comparer<string>());
        b.HasIndex(f => f.Address);
    }

    public void Configure(EntityTypeBuilder<FileUse> b)
    {
        b.ToTable("file_uses");
        b.HasKey(u => new { u.FileId, u.User, u.UserId });
        b.HasIndex(u => new { u.User, u.UserId });
        b.HasOne<StoredFile>().WithMany().HasForeignKey(u => u.FileId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<Upload> b)
    {
        b.ToTable("uploads", t => t.HasCheckConstraint("ck_uploads_received", "received between 0 and bytes"));
        b.Property(u => u.Id).ValueGeneratedNever();
        b.Property(u => u.Name).HasMaxLength(200);
        b.HasOne<StoredFile>().WithMany().HasForeignKey(u => u.FileId).OnDelete(DeleteBehavior.SetNull);
        b.HasOne<Account>().WithMany().HasForeignKey(u => u.AccountId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class ImportRunMapping : IEntityTypeConfiguration<ImportRun>
{
    public void Configure(EntityTypeBuilder<ImportRun> b)
    {
        b.ToTable("import_runs");
        b.Property(i => i.Id).ValueGeneratedNever();
        b.Property(i => i.Name).HasMaxLength(260);
        b.Property(i => i.Kind).HasMaxLength(20);
        b.Property(i => i.Piece).HasMaxLength(200);
        b.Property(i => i.Report).HasColumnType("jsonb");
        b.HasIndex(i => i.DryId).IsUnique();
        b.HasIndex(i => i.StartedAt);
        b.HasOne<ImportRun>().WithMany().HasForeignKey(i => i.DryId).OnDelete(DeleteBehavior.SetNull);
    }
}

sealed class LearningMapping : IEntityTypeConfiguration<SheetTry>, IEntityTypeConfiguration<SheetDraft>, IEntityTypeConfiguration<FormEntry>,
    IEntityTypeConfiguration<Played>,
    IEntityTypeConfiguration<Tally>, IEntityTypeConfiguration<TallyMark>, IEntityTypeConfiguration<Note>, IEntityTypeConfiguration<Bookmark>,
        IEntityTypeConfiguration<LessonQuestion>, IEntityTypeConfiguration<PiecePlace>
{
    public void Configure(EntityTypeBuilder<SheetTry> b)
    {
        b.ToTable("sheet_tries");
        b.Property(t => t.Id).ValueGeneratedNever();
        b.Property(t => t.Answers).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<Dictionary<string, Answer>>(), BrightContext.JsonComparer<Dictionary<string, Answer>>());
        b.Property(t => t.Marks).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<Dictionary<string, Mark>>(), BrightContext.JsonComparer<Dictionary<string, Mark>>());
        b.Property(t => t.Result).HasColumnType("jsonb").HasConversion(BrightContext.Json<SheetResult>(), BrightContext.JsonComparer<SheetResult>());
        b.Property(t => t.MarkedBy).HasMaxLength(120);
        b.HasIndex(t => new { t.MemberId, t.BlockId, t.Number }).IsUnique();
        b.HasIndex(t => new { t.BlockId, t.Number });
        b.HasIndex(t => t.At).HasFilter("waiting > 0").HasDatabaseName("ix_sheet_tries_waiting");
        b.HasOne<Lesson>().WithMany().HasForeignKey(t => t.LessonId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<SheetDraft> b)
    {
        b.ToTable("sheet_drafts");
        b.HasKey(d => new { d.MemberId, d.BlockId });
        b.Property(t => t.Answers).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<Dictionary<string, Answer>>(), BrightContext.JsonComparer<Dictionary<string, Answer>>());
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<FormEntry> b)
    {
        b.ToTable("form_entries");
        b.Property(t => t.Id).ValueGeneratedNever();
        b.Property(t => t.Turn).HasMaxLength(10);
        b.Property(t => t.Answers).HasColumnType("jsonb").HasConversion(BrightContext.Json<Dictionary<string, string>>(), Dictionaries.Comparer<string>());
        b.HasIndex(t => new { t.BlockId, t.MemberId, t.Turn }).IsUnique();
        b.HasIndex(t => t.MemberId);
        b.HasOne<Lesson>().WithMany().HasForeignKey(t => t.LessonId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<Played> b)
    {
        b.ToTable("played");
        b.HasKey(p => new { p.MemberId, p.BlockId });
        b.HasOne<Lesson>().WithMany().HasForeignKey(p => p.LessonId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<Tally> b)
    {
        b.ToTable("tallies");
        b.Property(t => t.Id).ValueGeneratedNever();
        b.Property(t => t.Name).HasMaxLength(80);
        b.Property(t => t.Aims).HasColumnType("jsonb")
            .HasConversion(BrightContext.Json<IReadOnlyList<TallyAim>>(), BrightContext.JsonComparer<IReadOnlyList<TallyAim>>());
        b.HasIndex(t => t.Name).IsUnique();
    }

    public void Configure(EntityTypeBuilder<TallyMark> b)
    {
        b.ToTable("tally_marks");
        b.Property(m => m.Id).ValueGeneratedNever();
        b.HasIndex(m => new { m.MemberId, m.TallyId, m.Day });
        b.HasIndex(m => new { m.TallyId, m.Day });
        b.HasIndex(m => new { m.MemberId, m.BlockId, m.Run }).IsUnique();
        b.HasOne<Tally>().WithMany().HasForeignKey(m => m.TallyId).OnDelete(DeleteBehavior.Restrict);
        b.HasOne<Member>().WithMany().HasForeignKey(m => m.MemberId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<Note> b)
    {
        b.ToTable("notes");
        b.HasKey(n => new { n.MemberId, n.LessonId });
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Lesson>().WithMany().HasForeignKey(t => t.LessonId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<Bookmark> b)
    {
        b.ToTable("bookmarks");
        b.HasKey(n => new { n.MemberId, n.LessonId });
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Lesson>().WithMany().HasForeignKey(t => t.LessonId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<LessonQuestion> b)
    {
        b.ToTable("lesson_questions");
        b.Property(q => q.Id).ValueGeneratedNever();
        b.Property(q => q.Name).HasMaxLength(120);
        b.Property(q => q.Text).HasMaxLength(4000);
        b.HasIndex(q => new { q.LessonId, q.Id });
        b.HasIndex(q => q.Id).HasFilter("answers_id is null and settled_at is null and hidden_at is null").HasDatabaseName("ix_lesson_questions_open");
        b.HasOne<Lesson>().WithMany().HasForeignKey(q => q.LessonId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<LessonQuestion>().WithMany().HasForeignKey(q => q.AnswersId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Account>().WithMany().HasForeignKey(q => q.AccountId).OnDelete(DeleteBehavior.Cascade);
    }

    public void Configure(EntityTypeBuilder<PiecePlace> b)
    {
        b.ToTable("piece_places");
        b.HasKey(p => new { p.PieceId, p.MemberId });
        b.HasIndex(p => p.MemberId);
        b.HasOne<Piece>().WithMany().HasForeignKey(p => p.PieceId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Member>().WithMany().HasForeignKey(t => t.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

sealed class SearchMapping : IEntityTypeConfiguration<SearchText>
{
    public void Configure(EntityTypeBuilder<SearchText> b)
    {
        b.ToTable("search_texts");
        b.Property(t => t.Id).ValueGeneratedNever();
        b.HasIndex(t => t.PieceId);
        b.HasIndex(t => t.LessonId);
        b.HasOne<Piece>().WithMany().HasForeignKey(t => t.PieceId).OnDelete(DeleteBehavior.Cascade);
        b.HasOne<Lesson>().WithMany().HasForeignKey(t => t.LessonId).OnDelete(DeleteBehavior.Cascade);
    }
}
