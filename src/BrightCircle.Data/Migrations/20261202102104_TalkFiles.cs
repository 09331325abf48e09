using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class TalkFiles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "bytes",
                table: "talk_pictures",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "file_name",
                table: "talk_pictures",
                type: "character varying(120)",
                maxLength: 120,
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "bytes",
                table: "talk_pictures");

            migrationBuilder.DropColumn(
                name: "file_name",
                table: "talk_pictures");
        }
    }
}
