using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class HouseRules : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            using var reader = new System.IO.StreamReader(typeof(HouseRules).Assembly.GetManifestResourceStream("BrightCircle.Data.HouseRules.sql")!);
            migrationBuilder.Sql(reader.ReadToEnd());
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            throw new System.NotSupportedException("The rules go with the tables: drop the database instead.");
    }
}
