using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Pages : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses");

            migrationBuilder.AddColumn<long>(
                name: "logo",
                table: "site",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "menu",
                table: "site",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "start_path",
                table: "plans",
                type: "character varying(300)",
                maxLength: 300,
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "site_pages",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: true),
                    price_id = table.Column<long>(type: "bigint", nullable: true),
                    slug = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    title = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    description = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false),
                    picture = table.Column<long>(type: "bigint", nullable: true),
                    sections = table.Column<string>(type: "jsonb", nullable: false),
                    is_public = table.Column<bool>(type: "boolean", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    changed_by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_site_pages", x => x.id);
                    table.CheckConstraint("ck_site_pages_kind_known", "\"kind\" in ('Free', 'Front', 'Plan', 'Join', 'Confirmation')");
                    table.CheckConstraint("ck_site_pages_plan", "(plan_id is not null) = (kind in ('Plan', 'Join'))");
                    table.CheckConstraint("ck_site_pages_price", "(price_id is not null) = (kind = 'Confirmation')");
                    table.ForeignKey(
                        name: "fk_site_pages_files_picture",
                        column: x => x.picture,
                        principalTable: "files",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_site_pages_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_site_pages_prices_price_id",
                        column: x => x.price_id,
                        principalTable: "prices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_site_logo",
                table: "site",
                column: "logo");

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf', 'Site', 'Page')");

            migrationBuilder.CreateIndex(
                name: "ix_site_pages_kind_plan_id_price_id",
                table: "site_pages",
                columns: new[] { "kind", "plan_id", "price_id" },
                unique: true,
                filter: "kind <> 'Free'")
                .Annotation("Npgsql:NullsDistinct", false);

            migrationBuilder.CreateIndex(
                name: "ix_site_pages_picture",
                table: "site_pages",
                column: "picture");

            migrationBuilder.CreateIndex(
                name: "ix_site_pages_plan_id",
                table: "site_pages",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_site_pages_price_id",
                table: "site_pages",
                column: "price_id");

            migrationBuilder.CreateIndex(
                name: "ix_site_pages_slug",
                table: "site_pages",
                column: "slug",
                unique: true,
                filter: "slug <> ''");

            migrationBuilder.AddForeignKey(
                name: "fk_site_files_logo",
                table: "site",
                column: "logo",
                principalTable: "files",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.Sql("""
                create trigger tell_catalogue after insert or update or delete on site_pages for each statement execute function tell_catalogue();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_site_files_logo",
                table: "site");

            migrationBuilder.DropTable(
                name: "site_pages");

            migrationBuilder.DropIndex(
                name: "ix_site_logo",
                table: "site");

            migrationBuilder.DropCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses");

            migrationBuilder.DropColumn(
                name: "logo",
                table: "site");

            migrationBuilder.DropColumn(
                name: "menu",
                table: "site");

            migrationBuilder.DropColumn(
                name: "start_path",
                table: "plans");

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf', 'Site')");
        }
    }
}
