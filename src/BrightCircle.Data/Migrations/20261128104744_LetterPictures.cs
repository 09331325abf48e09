using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class LetterPictures : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses");

            migrationBuilder.AddColumn<long>(
                name: "picture_id",
                table: "mailings",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "picture_id",
                table: "letter_texts",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "ix_mailings_picture_id",
                table: "mailings",
                column: "picture_id");

            migrationBuilder.CreateIndex(
                name: "ix_letter_texts_picture_id",
                table: "letter_texts",
                column: "picture_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf', 'Site', 'Page', 'Letter', 'HouseLetter')");

            migrationBuilder.AddForeignKey(
                name: "fk_letter_texts_files_picture_id",
                table: "letter_texts",
                column: "picture_id",
                principalTable: "files",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_mailings_files_picture_id",
                table: "mailings",
                column: "picture_id",
                principalTable: "files",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            // However a letter goes (by hand, with its routine, its member, or what was tried out): its picture isn't used by it any more.
            migrationBuilder.Sql("""
                create function letter_gone() returns trigger language plpgsql as $$
                begin
                    delete from file_uses where "user" = 'Letter' and user_id = old.id;
                    return null;
                end $$;
                create trigger letter_gone after delete on mailings for each row execute function letter_gone();
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("drop trigger letter_gone on mailings; drop function letter_gone();");

            migrationBuilder.DropForeignKey(
                name: "fk_letter_texts_files_picture_id",
                table: "letter_texts");

            migrationBuilder.DropForeignKey(
                name: "fk_mailings_files_picture_id",
                table: "mailings");

            migrationBuilder.DropIndex(
                name: "ix_mailings_picture_id",
                table: "mailings");

            migrationBuilder.DropIndex(
                name: "ix_letter_texts_picture_id",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses");

            migrationBuilder.DropColumn(
                name: "picture_id",
                table: "mailings");

            migrationBuilder.DropColumn(
                name: "picture_id",
                table: "letter_texts");

            migrationBuilder.AddCheckConstraint(
                name: "ck_file_uses_user_known",
                table: "file_uses",
                sql: "\"user\" in ('Lesson', 'Piece', 'Shelf', 'Site', 'Page')");
        }
    }
}
