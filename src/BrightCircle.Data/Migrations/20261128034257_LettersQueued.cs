using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class LettersQueued : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateIndex(
                name: "ix_letters_queued",
                table: "letters",
                column: "id",
                filter: "state = 'Queued'");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_letters_queued",
                table: "letters");
        }
    }
}
