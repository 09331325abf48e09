using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Lessons : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // What was in a piece goes into its one lesson, which takes over the piece's number: so openings need no change.
            migrationBuilder.Sql("create temporary table old_pieces as select p.*, b.html from pieces p join piece_bodies b on b.piece_id = p.id;");

            migrationBuilder.DropForeignKey(
                name: "fk_openings_pieces_piece_id",
                table: "openings");

            migrationBuilder.DropTable(
                name: "piece_bodies");

            migrationBuilder.DropCheckConstraint(
                name: "ck_pieces_minutes",
                table: "pieces");

            migrationBuilder.DropIndex(
                name: "ix_editions_month_date",
                table: "editions");

            migrationBuilder.DropCheckConstraint(
                name: "ck_editions_month",
                table: "editions");

            migrationBuilder.DropColumn(
                name: "picture",
                table: "pieces");

            migrationBuilder.DropColumn(
                name: "picture_alt",
                table: "pieces");

            migrationBuilder.DropColumn(
                name: "video_url",
                table: "pieces");

            migrationBuilder.DropColumn(name: "minutes", table: "pieces");

            migrationBuilder.AddColumn<int>(name: "places", table: "pieces", type: "integer", nullable: true);

            migrationBuilder.RenameColumn(
                name: "piece_id",
                table: "openings",
                newName: "lesson_id");

            migrationBuilder.RenameIndex(
                name: "ix_openings_piece_id",
                table: "openings",
                newName: "ix_openings_lesson_id");

            migrationBuilder.RenameColumn(
                name: "month_date",
                table: "editions",
                newName: "first_day");

            migrationBuilder.AddColumn<string>(
                name: "cadence",
                table: "site",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<string[]>(
                name: "document_kinds",
                table: "site",
                type: "text[]",
                nullable: false,
                defaultValueSql: "'{pdf,epub,docx,xlsx,pptx,odt,ods,odp,txt,csv,md,zip,ics,vtt}'");

            migrationBuilder.AddColumn<string>(
                name: "file_key",
                table: "site",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "language",
                table: "site",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "english");

            migrationBuilder.AddColumn<long>(
                name: "cover",
                table: "shelves",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "certificate",
                table: "pieces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "copy_guard",
                table: "pieces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "cover",
                table: "pieces",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "difficulty",
                table: "pieces",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "Anyone");

            migrationBuilder.AddColumn<string>(
                name: "end_link",
                table: "pieces",
                type: "character varying(500)",
                maxLength: 500,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "end_link_text",
                table: "pieces",
                type: "character varying(80)",
                maxLength: 80,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "end_note",
                table: "pieces",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "for_whom",
                table: "pieces",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "learn",
                table: "pieces",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "module_word",
                table: "pieces",
                type: "character varying(20)",
                maxLength: 20,
                nullable: false,
                defaultValue: "Module");

            migrationBuilder.AddColumn<bool>(
                name: "questions_on",
                table: "pieces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "resources",
                table: "pieces",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "WhereWritten");

            migrationBuilder.AddColumn<string>(
                name: "subtitle",
                table: "pieces",
                type: "character varying(200)",
                maxLength: 200,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "support_address",
                table: "pieces",
                type: "character varying(254)",
                maxLength: 254,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string[]>(
                name: "tags",
                table: "pieces",
                type: "text[]",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<string>(
                name: "terms",
                table: "pieces",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "trailer_url",
                table: "pieces",
                type: "character varying(500)",
                maxLength: 500,
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "trashed_at",
                table: "pieces",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "worked_on_by",
                table: "pieces",
                type: "character varying(60)",
                maxLength: 60,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<Instant>(
                name: "announced_at",
                table: "editions",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "span",
                table: "editions",
                type: "character varying(40)",
                maxLength: 40,
                nullable: false,
                defaultValue: "Month");

            migrationBuilder.CreateTable(
                name: "files",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    address = table.Column<string>(type: "character varying(60)", maxLength: 60, nullable: false),
                    name = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    media_type = table.Column<string>(type: "character varying(100)", maxLength: 100, nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    bytes = table.Column<long>(type: "bigint", nullable: false),
                    width = table.Column<int>(type: "integer", nullable: true),
                    height = table.Column<int>(type: "integer", nullable: true),
                    alt = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    sizes = table.Column<string>(type: "jsonb", nullable: false),
                    added_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    added_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    replaced_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_files", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "form_entries",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    block_id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    turn = table.Column<string>(type: "character varying(10)", maxLength: 10, nullable: false),
                    answers = table.Column<string>(type: "jsonb", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_entries", x => x.id);
                    table.ForeignKey(
                        name: "fk_form_entries_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "lesson_patterns",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    minutes = table.Column<int>(type: "integer", nullable: true),
                    done_when = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    blocks = table.Column<string>(type: "jsonb", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lesson_patterns", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "modules",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    title = table.Column<string>(type: "character varying(160)", maxLength: 160, nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    trashed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_modules", x => x.id);
                    table.ForeignKey(
                        name: "fk_modules_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "piece_places",
                columns: table => new
                {
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    waiting = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_piece_places", x => new { x.piece_id, x.member_id });
                    table.ForeignKey(
                        name: "fk_piece_places_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_piece_places_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "played",
                columns: table => new
                {
                    block_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    share = table.Column<double>(type: "double precision", nullable: false),
                    times = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_played", x => new { x.member_id, x.block_id });
                    table.ForeignKey(
                        name: "fk_played_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sheet_drafts",
                columns: table => new
                {
                    block_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    answers = table.Column<string>(type: "jsonb", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sheet_drafts", x => new { x.member_id, x.block_id });
                    table.ForeignKey(
                        name: "fk_sheet_drafts_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sheet_tries",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    block_id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    answers = table.Column<string>(type: "jsonb", nullable: false),
                    marks = table.Column<string>(type: "jsonb", nullable: false),
                    result = table.Column<string>(type: "jsonb", nullable: false),
                    waiting = table.Column<int>(type: "integer", nullable: false),
                    passed = table.Column<bool>(type: "boolean", nullable: true),
                    marked_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true),
                    marked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sheet_tries", x => x.id);
                    table.ForeignKey(
                        name: "fk_sheet_tries_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "file_uses",
                columns: table => new
                {
                    file_id = table.Column<long>(type: "bigint", nullable: false),
                    user = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    user_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_file_uses", x => new { x.file_id, x.user, x.user_id });
                    table.ForeignKey(
                        name: "fk_file_uses_files_file_id",
                        column: x => x.file_id,
                        principalTable: "files",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "uploads",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    bytes = table.Column<long>(type: "bigint", nullable: false),
                    received = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    started_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    file_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_uploads", x => x.id);
                    table.CheckConstraint("ck_uploads_received", "received between 0 and bytes");
                    table.ForeignKey(
                        name: "fk_uploads_files_file_id",
                        column: x => x.file_id,
                        principalTable: "files",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                });

            migrationBuilder.CreateTable(
                name: "lessons",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    module_id = table.Column<long>(type: "bigint", nullable: true),
                    position = table.Column<int>(type: "integer", nullable: false),
                    title = table.Column<string>(type: "character varying(160)", maxLength: 160, nullable: false),
                    minutes = table.Column<int>(type: "integer", nullable: true),
                    teaser = table.Column<bool>(type: "boolean", nullable: false),
                    done_when = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false, defaultValue: "Marked"),
                    edition_id = table.Column<long>(type: "bigint", nullable: true),
                    ready = table.Column<bool>(type: "boolean", nullable: false),
                    released_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    changed_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    trashed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    kinds = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lessons", x => x.id);
                    table.CheckConstraint("ck_lessons_minutes", "minutes is null or minutes between 1 and 6000");
                    table.ForeignKey(
                        name: "fk_lessons_editions_edition_id",
                        column: x => x.edition_id,
                        principalTable: "editions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_lessons_modules_module_id",
                        column: x => x.module_id,
                        principalTable: "modules",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_lessons_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "bookmarks",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_bookmarks", x => new { x.member_id, x.lesson_id });
                    table.ForeignKey(
                        name: "fk_bookmarks_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_bookmarks_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "editing",
                columns: table => new
                {
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_editing", x => new { x.lesson_id, x.account_id });
                    table.ForeignKey(
                        name: "fk_editing_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "lesson_contents",
                columns: table => new
                {
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    blocks = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lesson_contents", x => x.lesson_id);
                    table.ForeignKey(
                        name: "fk_lesson_contents_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "lesson_questions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    answers_id = table.Column<long>(type: "bigint", nullable: true),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    by_team = table.Column<bool>(type: "boolean", nullable: false),
                    text = table.Column<string>(type: "character varying(4000)", maxLength: 4000, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    hidden_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    settled_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lesson_questions", x => x.id);
                    table.ForeignKey(
                        name: "fk_lesson_questions_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_lesson_questions_lesson_questions_answers_id",
                        column: x => x.answers_id,
                        principalTable: "lesson_questions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_lesson_questions_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "lesson_versions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    title = table.Column<string>(type: "character varying(160)", maxLength: 160, nullable: false),
                    blocks = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lesson_versions", x => x.id);
                    table.ForeignKey(
                        name: "fk_lesson_versions_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "notes",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: false),
                    text = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_notes", x => new { x.member_id, x.lesson_id });
                    table.ForeignKey(
                        name: "fk_notes_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_notes_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "search_texts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    lesson_id = table.Column<long>(type: "bigint", nullable: true),
                    title = table.Column<string>(type: "text", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    transcript = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_search_texts", x => x.id);
                    table.ForeignKey(
                        name: "fk_search_texts_lessons_lesson_id",
                        column: x => x.lesson_id,
                        principalTable: "lessons",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_search_texts_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_shelves_cover",
                table: "shelves",
                column: "cover");

            migrationBuilder.CreateIndex(
                name: "ix_pieces_cover",
                table: "pieces",
                column: "cover");

            migrationBuilder.CreateIndex(
                name: "ix_pieces_trashed_at",
                table: "pieces",
                column: "trashed_at",
                filter: "trashed_at is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_pieces_places",
                table: "pieces",
                sql: "places is null or places between 1 and 100000");

            migrationBuilder.CreateIndex(
                name: "ix_editions_span_first_day",
                table: "editions",
                columns: new[] { "span", "first_day" },
                unique: true);

            migrationBuilder.AddCheckConstraint(
                name: "ck_editions_month",
                table: "editions",
                sql: "span <> 'Month' or extract(day from first_day) = 1");

            migrationBuilder.AddCheckConstraint(
                name: "ck_editions_week",
                table: "editions",
                sql: "span <> 'Week' or extract(isodow from first_day) = 1");

            migrationBuilder.CreateIndex(
                name: "ix_bookmarks_lesson_id",
                table: "bookmarks",
                column: "lesson_id");

            migrationBuilder.CreateIndex(
                name: "ix_file_uses_user_user_id",
                table: "file_uses",
                columns: new[] { "user", "user_id" });

            migrationBuilder.CreateIndex(
                name: "ix_files_address",
                table: "files",
                column: "address");

            migrationBuilder.CreateIndex(
                name: "ix_form_entries_block_id_member_id_turn",
                table: "form_entries",
                columns: new[] { "block_id", "member_id", "turn" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_form_entries_member_id",
                table: "form_entries",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_lesson_patterns_name",
                table: "lesson_patterns",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_lesson_questions_account_id",
                table: "lesson_questions",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_lesson_questions_answers_id",
                table: "lesson_questions",
                column: "answers_id");

            migrationBuilder.CreateIndex(
                name: "ix_lesson_questions_lesson_id_id",
                table: "lesson_questions",
                columns: new[] { "lesson_id", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_lesson_questions_open",
                table: "lesson_questions",
                column: "id",
                filter: "answers_id is null and settled_at is null and hidden_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_lesson_versions_lesson_id_version",
                table: "lesson_versions",
                columns: new[] { "lesson_id", "version" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_lessons_edition_id",
                table: "lessons",
                column: "edition_id");

            migrationBuilder.CreateIndex(
                name: "ix_lessons_module_id",
                table: "lessons",
                column: "module_id");

            migrationBuilder.CreateIndex(
                name: "ix_lessons_piece_id_position",
                table: "lessons",
                columns: new[] { "piece_id", "position" });

            migrationBuilder.CreateIndex(
                name: "ix_lessons_trashed_at",
                table: "lessons",
                column: "trashed_at",
                filter: "trashed_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_modules_piece_id",
                table: "modules",
                column: "piece_id");

            migrationBuilder.CreateIndex(
                name: "ix_notes_lesson_id",
                table: "notes",
                column: "lesson_id");

            migrationBuilder.CreateIndex(
                name: "ix_piece_places_member_id",
                table: "piece_places",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_search_texts_lesson_id",
                table: "search_texts",
                column: "lesson_id");

            migrationBuilder.CreateIndex(
                name: "ix_search_texts_piece_id",
                table: "search_texts",
                column: "piece_id");

            migrationBuilder.CreateIndex(
                name: "ix_sheet_tries_block_id_number",
                table: "sheet_tries",
                columns: new[] { "block_id", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_sheet_tries_member_id_block_id_number",
                table: "sheet_tries",
                columns: new[] { "member_id", "block_id", "number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_sheet_tries_waiting",
                table: "sheet_tries",
                column: "at",
                filter: "waiting > 0");

            migrationBuilder.CreateIndex(
                name: "ix_uploads_file_id",
                table: "uploads",
                column: "file_id");

            migrationBuilder.Sql("""
                insert into lessons (id, piece_id, position, title, minutes, teaser, done_when, ready, released_at, version, changed_at, changed_by, kinds)
                  select id, id, 1, title, minutes, false, 'Marked', ready, released_at, 1, changed_at, '', case when video_url is null then 'text' else 'video' end from old_pieces;
                insert into lesson_contents (lesson_id, blocks)
                  select id, case when video_url is null then '[]'::jsonb else jsonb_build_array(jsonb_build_object('kind', 'video', 'id', nextval('ids'), 'recording', jsonb_build_object('title', '', 'url', video_url, 'captions', '', 'transcript', ''))) end
                    || jsonb_build_array(jsonb_build_object('kind', 'text', 'id', id, 'html', html)) from old_pieces;
                insert into files (id, address, name, media_type, kind, bytes, alt, sizes, added_at, added_by)
                  select nextval('ids'), picture, title, 'image/webp', 'Picture', 0, coalesce(picture_alt, ''), '{}', changed_at, '' from old_pieces where picture is not null;
                update pieces p set cover = f.id from old_pieces o join files f on f.address = o.picture where o.id = p.id;
                insert into file_uses (file_id, "user", user_id) select cover, 'Piece', id from pieces where cover is not null;
                insert into search_texts (id, piece_id, lesson_id, title, body, transcript)
                  select nextval('ids'), id, null, title, summary, '' from pieces
                  union all select nextval('ids'), id, id, title, regexp_replace(html, '<[^>]*>', ' ', 'g'), '' from old_pieces;
                alter table search_texts add column tsv tsvector;
                update search_texts set tsv = setweight(to_tsvector('english', title), 'A') || setweight(to_tsvector('english', body), 'B');
                create index ix_search_texts_tsv on search_texts using gin (tsv);
                update editions set announced_at = released_at where announce and released_at is not null;
                drop table old_pieces;
                """);

            migrationBuilder.AddForeignKey(
                name: "fk_openings_lessons_lesson_id",
                table: "openings",
                column: "lesson_id",
                principalTable: "lessons",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_pieces_files_cover",
                table: "pieces",
                column: "cover",
                principalTable: "files",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_shelves_files_cover",
                table: "shelves",
                column: "cover",
                principalTable: "files",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            throw new System.NotSupportedException("What stands in lessons doesn't fit back into pieces: restore a backup instead.");
    }
}
