using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Doorways : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses");

            migrationBuilder.AddColumn<string>(
                name: "doorway",
                table: "site",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "doorway",
                table: "shelves",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "doorway",
                table: "pieces",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "from_piece_id",
                table: "checkouts",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "doorway_days",
                columns: table => new
                {
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    day = table.Column<LocalDate>(type: "date", nullable: false),
                    met = table.Column<int>(type: "integer", nullable: false),
                    clicked = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_doorway_days", x => new { x.piece_id, x.day });
                    table.ForeignKey(
                        name: "fk_doorway_days_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf', 'Site')");

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_from_piece_id",
                table: "checkouts",
                column: "from_piece_id",
                filter: "from_piece_id is not null");

            migrationBuilder.AddForeignKey(
                name: "fk_checkouts_pieces_from_piece_id",
                table: "checkouts",
                column: "from_piece_id",
                principalTable: "pieces",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_checkouts_pieces_from_piece_id",
                table: "checkouts");

            migrationBuilder.DropTable(
                name: "doorway_days");

            migrationBuilder.DropCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses");

            migrationBuilder.DropIndex(
                name: "ix_checkouts_from_piece_id",
                table: "checkouts");

            migrationBuilder.DropColumn(
                name: "doorway",
                table: "site");

            migrationBuilder.DropColumn(
                name: "doorway",
                table: "shelves");

            migrationBuilder.DropColumn(
                name: "doorway",
                table: "pieces");

            migrationBuilder.DropColumn(
                name: "from_piece_id",
                table: "checkouts");

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf')");
        }
    }
}
