using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Tallies : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "zone_id",
                table: "members",
                type: "character varying(60)",
                maxLength: 60,
                nullable: true);

            migrationBuilder.CreateTable(
                name: "tallies",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    description = table.Column<string>(type: "text", nullable: false),
                    aims = table.Column<string>(type: "jsonb", nullable: false),
                    archived_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_tallies", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "tally_marks",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    tally_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    day = table.Column<LocalDate>(type: "date", nullable: false),
                    block_id = table.Column<long>(type: "bigint", nullable: true),
                    run = table.Column<int>(type: "integer", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_tally_marks", x => x.id);
                    table.ForeignKey(
                        name: "fk_tally_marks_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_tally_marks_tallies_tally_id",
                        column: x => x.tally_id,
                        principalTable: "tallies",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "ix_tallies_name",
                table: "tallies",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_tally_marks_member_id_block_id_run",
                table: "tally_marks",
                columns: new[] { "member_id", "block_id", "run" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_tally_marks_member_id_tally_id_day",
                table: "tally_marks",
                columns: new[] { "member_id", "tally_id", "day" });

            migrationBuilder.CreateIndex(
                name: "ix_tally_marks_tally_id_day",
                table: "tally_marks",
                columns: new[] { "tally_id", "day" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "tally_marks");

            migrationBuilder.DropTable(
                name: "tallies");

            migrationBuilder.DropColumn(
                name: "zone_id",
                table: "members");
        }
    }
}
