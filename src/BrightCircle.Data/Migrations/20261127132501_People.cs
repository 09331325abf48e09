using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class People : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "audiences",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    condition = table.Column<string>(type: "jsonb", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_audiences", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "last_seen",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_last_seen", x => x.member_id);
                    table.ForeignKey(
                        name: "fk_last_seen_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "own_fields",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(60)", maxLength: 60, nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    choices = table.Column<string>(type: "jsonb", nullable: false),
                    asked_at_joining = table.Column<bool>(type: "boolean", nullable: false),
                    by_members = table.Column<bool>(type: "boolean", nullable: false),
                    order = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_own_fields", x => x.id);
                    table.CheckConstraint("ck_own_fields_kind_known", "\"kind\" in ('Text', 'Number', 'Date', 'Choice')");
                });

            migrationBuilder.CreateTable(
                name: "tags",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    group = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    colour = table.Column<int>(type: "integer", nullable: false),
                    follows = table.Column<string>(type: "jsonb", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_tags", x => x.id);
                    table.CheckConstraint("ck_tags_colour", "colour between 1 and 8");
                });

            migrationBuilder.CreateTable(
                name: "team_notes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    text = table.Column<string>(type: "character varying(4000)", maxLength: 4000, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_team_notes", x => x.id);
                    table.ForeignKey(
                        name: "fk_team_notes_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "own_field_values",
                columns: table => new
                {
                    field_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    text = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    number = table.Column<decimal>(type: "numeric", nullable: true),
                    date = table.Column<LocalDate>(type: "date", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_own_field_values", x => new { x.field_id, x.member_id });
                    table.ForeignKey(
                        name: "fk_own_field_values_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_own_field_values_own_fields_field_id",
                        column: x => x.field_id,
                        principalTable: "own_fields",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "member_tags",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    tag_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_member_tags", x => new { x.member_id, x.tag_id });
                    table.ForeignKey(
                        name: "fk_member_tags_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_member_tags_tags_tag_id",
                        column: x => x.tag_id,
                        principalTable: "tags",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_audiences_name",
                table: "audiences",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_last_seen_at",
                table: "last_seen",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_member_tags_tag_id",
                table: "member_tags",
                column: "tag_id");

            migrationBuilder.CreateIndex(
                name: "ix_own_field_values_member_id",
                table: "own_field_values",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_own_fields_name",
                table: "own_fields",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_tags_name",
                table: "tags",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_team_notes_member_id_at",
                table: "team_notes",
                columns: new[] { "member_id", "at" });

            migrationBuilder.Sql("""
                create trigger tell_catalogue after insert or update or delete on tags for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on own_fields for each statement execute function tell_catalogue();
                create trigger tell_catalogue after insert or update or delete on audiences for each statement execute function tell_catalogue();
                -- As far as it is known: whoever opened something, or came in by a letter, was here.
                insert into last_seen (member_id, at)
                select member_id, max(at) from (
                  select member_id, last_at as at from openings
                  union all select member_id, at from journal where kind = 'signed-in' and member_id is not null) seen
                group by member_id;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "audiences");

            migrationBuilder.DropTable(
                name: "last_seen");

            migrationBuilder.DropTable(
                name: "member_tags");

            migrationBuilder.DropTable(
                name: "own_field_values");

            migrationBuilder.DropTable(
                name: "team_notes");

            migrationBuilder.DropTable(
                name: "tags");

            migrationBuilder.DropTable(
                name: "own_fields");
        }
    }
}
