using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Talk : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "spaces",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(60)", maxLength: 60, nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    door = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false),
                    manners = table.Column<string>(type: "character varying(600)", maxLength: 600, nullable: false),
                    colour = table.Column<int>(type: "integer", nullable: false),
                    order = table.Column<int>(type: "integer", nullable: false),
                    for_guests = table.Column<bool>(type: "boolean", nullable: false),
                    nods = table.Column<string>(type: "jsonb", nullable: false),
                    closed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_spaces", x => x.id);
                    table.CheckConstraint("ck_spaces_kind_known", "\"kind\" in ('Talk', 'Questions', 'Announcements', 'Introductions')");
                });

            migrationBuilder.CreateTable(
                name: "space_seen",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    space_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    before = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_space_seen", x => new { x.account_id, x.space_id });
                    table.ForeignKey(
                        name: "fk_space_seen_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_space_seen_spaces_space_id",
                        column: x => x.space_id,
                        principalTable: "spaces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "talk_threads",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    space_id = table.Column<long>(type: "bigint", nullable: false),
                    title = table.Column<string>(type: "character varying(150)", maxLength: 150, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    answers = table.Column<int>(type: "integer", nullable: false),
                    pinned_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    closed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    hidden_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    helped_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_threads", x => x.id);
                    table.ForeignKey(
                        name: "fk_talk_threads_spaces_space_id",
                        column: x => x.space_id,
                        principalTable: "spaces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "talk_posts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    thread_id = table.Column<long>(type: "bigint", nullable: false),
                    answers_id = table.Column<long>(type: "bigint", nullable: true),
                    is_first = table.Column<bool>(type: "boolean", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: true),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    by_team = table.Column<bool>(type: "boolean", nullable: false),
                    body = table.Column<string>(type: "character varying(20000)", maxLength: 20000, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    edited_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    gone_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    gone_by_team = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_posts", x => x.id);
                    table.ForeignKey(
                        name: "fk_talk_posts_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_talk_posts_talk_posts_answers_id",
                        column: x => x.answers_id,
                        principalTable: "talk_posts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_talk_posts_talk_threads_thread_id",
                        column: x => x.thread_id,
                        principalTable: "talk_threads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "talk_seen",
                columns: table => new
                {
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    thread_id = table.Column<long>(type: "bigint", nullable: false),
                    post_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_seen", x => new { x.account_id, x.thread_id });
                    table.ForeignKey(
                        name: "fk_talk_seen_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_talk_seen_talk_threads_thread_id",
                        column: x => x.thread_id,
                        principalTable: "talk_threads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "talk_nods",
                columns: table => new
                {
                    post_id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    word = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_nods", x => new { x.post_id, x.account_id, x.word });
                    table.ForeignKey(
                        name: "fk_talk_nods_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_talk_nods_talk_posts_post_id",
                        column: x => x.post_id,
                        principalTable: "talk_posts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_space_seen_space_id",
                table: "space_seen",
                column: "space_id");

            migrationBuilder.CreateIndex(
                name: "ix_spaces_name",
                table: "spaces",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_talk_nods_account_id",
                table: "talk_nods",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_posts_account_id_at",
                table: "talk_posts",
                columns: new[] { "account_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_talk_posts_answers_id",
                table: "talk_posts",
                column: "answers_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_posts_thread_id_id",
                table: "talk_posts",
                columns: new[] { "thread_id", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_talk_seen_thread_id",
                table: "talk_seen",
                column: "thread_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_threads_space_id_last_at",
                table: "talk_threads",
                columns: new[] { "space_id", "last_at" });

            migrationBuilder.Sql("""
                create trigger tell_catalogue after insert or update or delete on spaces for each statement execute function tell_catalogue();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "space_seen");

            migrationBuilder.DropTable(
                name: "talk_nods");

            migrationBuilder.DropTable(
                name: "talk_seen");

            migrationBuilder.DropTable(
                name: "talk_posts");

            migrationBuilder.DropTable(
                name: "talk_threads");

            migrationBuilder.DropTable(
                name: "spaces");
        }
    }
}
