using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Devices : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                update sign_ins set device = case device when 'a phone' then 'Phone' when 'a tablet' then 'Tablet' when 'a computer' then 'Computer'
                    when 'a program' then 'Program' else 'Unknown' end
                """);

            migrationBuilder.AddCheckConstraint(
                name: "ck_sign_ins_device_known",
                table: "sign_ins",
                sql: "\"device\" in ('Unknown', 'Program', 'Computer', 'Phone', 'Tablet')");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_sign_ins_device_known",
                table: "sign_ins");
        }
    }
}
