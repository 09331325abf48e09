using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class TogetherAndInstead : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_state_known",
                table: "letters");

            migrationBuilder.AddColumn<long>(
                name: "message_id",
                table: "talk_pictures",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "words_id",
                table: "talk_pictures",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "choices",
                table: "talk_drafts",
                type: "character varying(1280)",
                maxLength: 1280,
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "cohort_id",
                table: "spaces",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "letter_id",
                table: "push_notices",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "instead",
                table: "push_devices",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Instant>(
                name: "shown_at",
                table: "letters",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "ix_talk_pictures_message_id",
                table: "talk_pictures",
                column: "message_id",
                filter: "message_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_talk_pictures_words_id",
                table: "talk_pictures",
                column: "words_id",
                filter: "words_id is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_talk_pictures_place",
                table: "talk_pictures",
                sql: "num_nonnulls(post_id, message_id, words_id) <= 1");

            migrationBuilder.CreateIndex(
                name: "ix_spaces_cohort_id",
                table: "spaces",
                column: "cohort_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_push_notices_letter_id",
                table: "push_notices",
                column: "letter_id");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_state_known",
                table: "letters",
                sql: "\"state\" in ('Queued', 'Sent', 'Refused', 'Shown')");

            migrationBuilder.AddForeignKey(
                name: "fk_push_notices_letters_letter_id",
                table: "push_notices",
                column: "letter_id",
                principalTable: "letters",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);

            migrationBuilder.AddForeignKey(
                name: "fk_spaces_cohorts_cohort_id",
                table: "spaces",
                column: "cohort_id",
                principalTable: "cohorts",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_talk_pictures_exchange_messages_words_id",
                table: "talk_pictures",
                column: "words_id",
                principalTable: "exchange_messages",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_talk_pictures_messages_message_id",
                table: "talk_pictures",
                column: "message_id",
                principalTable: "messages",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_push_notices_letters_letter_id",
                table: "push_notices");

            migrationBuilder.DropForeignKey(
                name: "fk_spaces_cohorts_cohort_id",
                table: "spaces");

            migrationBuilder.DropForeignKey(
                name: "fk_talk_pictures_exchange_messages_words_id",
                table: "talk_pictures");

            migrationBuilder.DropForeignKey(
                name: "fk_talk_pictures_messages_message_id",
                table: "talk_pictures");

            migrationBuilder.DropIndex(
                name: "ix_talk_pictures_message_id",
                table: "talk_pictures");

            migrationBuilder.DropIndex(
                name: "ix_talk_pictures_words_id",
                table: "talk_pictures");

            migrationBuilder.DropCheckConstraint(
                name: "ck_talk_pictures_place",
                table: "talk_pictures");

            migrationBuilder.DropIndex(
                name: "ix_spaces_cohort_id",
                table: "spaces");

            migrationBuilder.DropIndex(
                name: "ix_push_notices_letter_id",
                table: "push_notices");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_state_known",
                table: "letters");

            migrationBuilder.DropColumn(
                name: "message_id",
                table: "talk_pictures");

            migrationBuilder.DropColumn(
                name: "words_id",
                table: "talk_pictures");

            migrationBuilder.DropColumn(
                name: "choices",
                table: "talk_drafts");

            migrationBuilder.DropColumn(
                name: "cohort_id",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "letter_id",
                table: "push_notices");

            migrationBuilder.DropColumn(
                name: "instead",
                table: "push_devices");

            migrationBuilder.DropColumn(
                name: "shown_at",
                table: "letters");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_state_known",
                table: "letters",
                sql: "\"state\" in ('Queued', 'Sent', 'Refused')");
        }
    }
}
