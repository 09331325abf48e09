using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class TalkPictures : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_spaces_kind_known",
                table: "spaces");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<long>(
                name: "merged_id",
                table: "talk_threads",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "held",
                table: "talk_posts",
                type: "character varying(40)",
                maxLength: 40,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "holds",
                table: "site",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.CreateTable(
                name: "talk_pictures",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: true),
                    post_id = table.Column<long>(type: "bigint", nullable: true),
                    place = table.Column<int>(type: "integer", nullable: false),
                    address = table.Column<string>(type: "character varying(64)", maxLength: 64, nullable: false),
                    small = table.Column<string>(type: "character varying(64)", maxLength: 64, nullable: false),
                    width = table.Column<int>(type: "integer", nullable: false),
                    height = table.Column<int>(type: "integer", nullable: false),
                    alt = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_talk_pictures", x => x.id);
                    table.ForeignKey(
                        name: "fk_talk_pictures_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                    table.ForeignKey(
                        name: "fk_talk_pictures_talk_posts_post_id",
                        column: x => x.post_id,
                        principalTable: "talk_posts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_talk_threads_merged_id",
                table: "talk_threads",
                column: "merged_id");

            migrationBuilder.CreateIndex(
                name: "ix_talk_posts_held",
                table: "talk_posts",
                column: "held",
                filter: "held is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_talk_posts_held_known",
                table: "talk_posts",
                sql: "\"held\" in ('FirstPost', 'Link', 'Word')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_spaces_kind_known",
                table: "spaces",
                sql: "\"kind\" in ('Talk', 'Questions', 'Announcements', 'Introductions', 'Showcase')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords', 'ForgetPicture')");

            migrationBuilder.CreateIndex(
                name: "ix_talk_pictures_account_id_at",
                table: "talk_pictures",
                columns: new[] { "account_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_talk_pictures_address",
                table: "talk_pictures",
                column: "address");

            migrationBuilder.CreateIndex(
                name: "ix_talk_pictures_post_id_place",
                table: "talk_pictures",
                columns: new[] { "post_id", "place" });

            migrationBuilder.AddForeignKey(
                name: "fk_talk_threads_talk_threads_merged_id",
                table: "talk_threads",
                column: "merged_id",
                principalTable: "talk_threads",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_talk_threads_talk_threads_merged_id",
                table: "talk_threads");

            migrationBuilder.DropTable(
                name: "talk_pictures");

            migrationBuilder.DropIndex(
                name: "ix_talk_threads_merged_id",
                table: "talk_threads");

            migrationBuilder.DropIndex(
                name: "ix_talk_posts_held",
                table: "talk_posts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_talk_posts_held_known",
                table: "talk_posts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_spaces_kind_known",
                table: "spaces");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropColumn(
                name: "merged_id",
                table: "talk_threads");

            migrationBuilder.DropColumn(
                name: "held",
                table: "talk_posts");

            migrationBuilder.DropColumn(
                name: "holds",
                table: "site");

            migrationBuilder.AddCheckConstraint(
                name: "ck_spaces_kind_known",
                table: "spaces",
                sql: "\"kind\" in ('Talk', 'Questions', 'Announcements', 'Introductions')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords')");
        }
    }
}
