using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class MembersWrite : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddColumn<bool>(
                name: "by_edition",
                table: "spaces",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "edition_id",
                table: "spaces",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "full_at",
                table: "spaces",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "host_ids",
                table: "spaces",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<long>(
                name: "like_id",
                table: "spaces",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "members_write",
                table: "site",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "push_key",
                table: "site",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "takes_words",
                table: "person_cards",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "tells_read",
                table: "person_cards",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "badge_id",
                table: "challenges",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "exchanges",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    agreed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_by_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_exchanges", x => x.id);
                    table.ForeignKey(
                        name: "fk_exchanges_members_last_by_id",
                        column: x => x.last_by_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                });

            migrationBuilder.CreateTable(
                name: "push_devices",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    sign_in_id = table.Column<long>(type: "bigint", nullable: true),
                    endpoint = table.Column<string>(type: "character varying(500)", maxLength: 500, nullable: false),
                    key = table.Column<byte[]>(type: "bytea", nullable: false),
                    secret = table.Column<byte[]>(type: "bytea", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_push_devices", x => x.id);
                    table.ForeignKey(
                        name: "fk_push_devices_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_push_devices_sign_ins_sign_in_id",
                        column: x => x.sign_in_id,
                        principalTable: "sign_ins",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "exchange_messages",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    exchange_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    body = table.Column<string>(type: "character varying(20000)", maxLength: 20000, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_exchange_messages", x => x.id);
                    table.ForeignKey(
                        name: "fk_exchange_messages_exchanges_exchange_id",
                        column: x => x.exchange_id,
                        principalTable: "exchanges",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_exchange_messages_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.SetNull);
                });

            migrationBuilder.CreateTable(
                name: "exchange_people",
                columns: table => new
                {
                    exchange_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    asked = table.Column<bool>(type: "boolean", nullable: false),
                    shut_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_exchange_people", x => new { x.exchange_id, x.member_id });
                    table.ForeignKey(
                        name: "fk_exchange_people_exchanges_exchange_id",
                        column: x => x.exchange_id,
                        principalTable: "exchanges",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_exchange_people_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "push_notices",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    device_id = table.Column<long>(type: "bigint", nullable: false),
                    title = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    path = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    not_before = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    tries = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_push_notices", x => x.id);
                    table.ForeignKey(
                        name: "fk_push_notices_push_devices_device_id",
                        column: x => x.device_id,
                        principalTable: "push_devices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_spaces_edition_id",
                table: "spaces",
                column: "edition_id");

            migrationBuilder.CreateIndex(
                name: "ix_spaces_like_id_edition_id",
                table: "spaces",
                columns: new[] { "like_id", "edition_id" },
                unique: true,
                filter: "like_id is not null and edition_id is not null");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session', 'Talk', 'TalkWord', 'Message', 'Challenge', 'Words')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session', 'Talk', 'TalkWord', 'Message', 'Challenge', 'Words')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords', 'ForgetPicture', 'HourNear', 'ChallengeTurn', 'WordsWritten', 'SpaceOfEdition')");

            migrationBuilder.CreateIndex(
                name: "ix_challenges_badge_id",
                table: "challenges",
                column: "badge_id");

            migrationBuilder.CreateIndex(
                name: "ix_exchange_messages_exchange_id_id",
                table: "exchange_messages",
                columns: new[] { "exchange_id", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_exchange_messages_member_id_at",
                table: "exchange_messages",
                columns: new[] { "member_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_exchange_people_member_id",
                table: "exchange_people",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_exchanges_last_by_id",
                table: "exchanges",
                column: "last_by_id");

            migrationBuilder.CreateIndex(
                name: "ix_push_devices_endpoint",
                table: "push_devices",
                column: "endpoint",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_push_devices_member_id",
                table: "push_devices",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_push_devices_sign_in_id",
                table: "push_devices",
                column: "sign_in_id");

            migrationBuilder.CreateIndex(
                name: "ix_push_notices_device_id",
                table: "push_notices",
                column: "device_id");

            migrationBuilder.CreateIndex(
                name: "ix_push_notices_not_before",
                table: "push_notices",
                column: "not_before");

            migrationBuilder.AddForeignKey(
                name: "fk_challenges_tags_badge_id",
                table: "challenges",
                column: "badge_id",
                principalTable: "tags",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.AddForeignKey(
                name: "fk_spaces_editions_edition_id",
                table: "spaces",
                column: "edition_id",
                principalTable: "editions",
                principalColumn: "id",
                onDelete: ReferentialAction.SetNull);

            migrationBuilder.AddForeignKey(
                name: "fk_spaces_spaces_like_id",
                table: "spaces",
                column: "like_id",
                principalTable: "spaces",
                principalColumn: "id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "fk_challenges_tags_badge_id",
                table: "challenges");

            migrationBuilder.DropForeignKey(
                name: "fk_spaces_editions_edition_id",
                table: "spaces");

            migrationBuilder.DropForeignKey(
                name: "fk_spaces_spaces_like_id",
                table: "spaces");

            migrationBuilder.DropTable(
                name: "exchange_messages");

            migrationBuilder.DropTable(
                name: "exchange_people");

            migrationBuilder.DropTable(
                name: "push_notices");

            migrationBuilder.DropTable(
                name: "exchanges");

            migrationBuilder.DropTable(
                name: "push_devices");

            migrationBuilder.DropIndex(
                name: "ix_spaces_edition_id",
                table: "spaces");

            migrationBuilder.DropIndex(
                name: "ix_spaces_like_id_edition_id",
                table: "spaces");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters");

            migrationBuilder.DropCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.DropIndex(
                name: "ix_challenges_badge_id",
                table: "challenges");

            migrationBuilder.DropColumn(
                name: "by_edition",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "edition_id",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "full_at",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "host_ids",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "like_id",
                table: "spaces");

            migrationBuilder.DropColumn(
                name: "members_write",
                table: "site");

            migrationBuilder.DropColumn(
                name: "push_key",
                table: "site");

            migrationBuilder.DropColumn(
                name: "takes_words",
                table: "person_cards");

            migrationBuilder.DropColumn(
                name: "tells_read",
                table: "person_cards");

            migrationBuilder.DropColumn(
                name: "badge_id",
                table: "challenges");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letters_kind_known",
                table: "letters",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session', 'Talk', 'TalkWord', 'Message', 'Challenge')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_letter_texts_kind_known",
                table: "letter_texts",
                sql: "\"kind\" in ('Welcome', 'SignIn', 'Receipt', 'Edition', 'PaymentFailed', 'Ending', 'Lapsed', 'Refund', 'Place', 'Answered', 'Marked', 'Confirm', 'HasAccount', 'Seat', 'Covered', 'Changed', 'Paused', 'Closed', 'PriceTold', 'Credited', 'OrderPlaced', 'PaymentWanted', 'OrderReminder', 'OrderOver', 'Voucher', 'VoucherFor', 'CardRunsOut', 'OwnerNews', 'Many', 'TeamInvite', 'HalfWay', 'Session', 'Talk', 'TalkWord', 'Message', 'Challenge')");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth', 'SessionNear', 'TalkHour', 'TalkAtOnce', 'ForgetWords', 'ForgetPicture', 'HourNear', 'ChallengeTurn')");
        }
    }
}
