using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class TwoSubjects : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "other_subject",
                table: "mailings",
                type: "character varying(150)",
                maxLength: 150,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "tried",
                table: "mailings",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "tried_at",
                table: "mailings",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "try_hours",
                table: "mailings",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "try_part",
                table: "mailings",
                type: "integer",
                nullable: true);

            migrationBuilder.AddCheckConstraint(
                name: "ck_mailings_two_subjects",
                table: "mailings",
                sql: "(other_subject is null) = (try_part is null) and (other_subject is null) = (try_hours is null)");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_mailings_two_subjects",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "other_subject",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "tried",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "tried_at",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "try_hours",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "try_part",
                table: "mailings");
        }
    }
}
