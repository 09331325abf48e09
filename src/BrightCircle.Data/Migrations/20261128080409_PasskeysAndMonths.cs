using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class PasskeysAndMonths : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.CreateTable(
                name: "account_passkeys",
                columns: table => new
                {
                    credential_id = table.Column<byte[]>(type: "bytea", maxLength: 1023, nullable: false),
                    user_id = table.Column<long>(type: "bigint", nullable: false),
                    data = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_passkeys", x => x.credential_id);
                    table.ForeignKey(
                        name: "fk_account_passkeys_accounts_user_id",
                        column: x => x.user_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "month_beginnings",
                columns: table => new
                {
                    month = table.Column<LocalDate>(type: "date", nullable: false),
                    members = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_month_beginnings", x => x.month);
                });

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay', 'CountMonth')");

            migrationBuilder.CreateIndex(
                name: "ix_account_passkeys_user_id",
                table: "account_passkeys",
                column: "user_id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_passkeys");

            migrationBuilder.DropTable(
                name: "month_beginnings");

            migrationBuilder.DropCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work");

            migrationBuilder.AddCheckConstraint(
                name: "ck_due_work_kind_known",
                table: "due_work",
                sql: "\"kind\" in ('Renew', 'Release', 'EndHolding', 'LapseHolding', 'Refund', 'Chargeback', 'ReleasePiece', 'Announce', 'Purge', 'Reindex', 'MovePromise', 'BeginHolding', 'PeopleBatch', 'EndSeats', 'EndPause', 'Settle', 'MovePrice', 'ChaseOrder', 'AskTransfer', 'SendVoucher', 'DisputeDecided', 'OwnerNews', 'OwnerMorning', 'CardExpiring', 'ForgetOrders', 'Mailing', 'RoutineHears', 'RoutineStep', 'RoutineDay', 'RoutineBegin', 'RoutineEdition', 'ForgetCard', 'RemindHalfWay')");
        }
    }
}
