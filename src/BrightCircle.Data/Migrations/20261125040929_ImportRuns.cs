using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class ImportRuns : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "import_runs",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    started_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    beat_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    dry_id = table.Column<long>(type: "bigint", nullable: true),
                    dry = table.Column<bool>(type: "boolean", nullable: false),
                    name = table.Column<string>(type: "character varying(260)", maxLength: 260, nullable: false),
                    path = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "character varying(20)", maxLength: 20, nullable: false),
                    piece = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    done = table.Column<int>(type: "integer", nullable: false),
                    of = table.Column<int>(type: "integer", nullable: false),
                    report = table.Column<string>(type: "jsonb", nullable: true),
                    failed = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_runs", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_import_runs_dry_id",
                table: "import_runs",
                column: "dry_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_import_runs_started_at",
                table: "import_runs",
                column: "started_at");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "import_runs");
        }
    }
}
