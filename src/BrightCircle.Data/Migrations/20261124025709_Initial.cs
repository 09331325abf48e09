using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace BrightCircle.Data.Migrations
{
    /// <inheritdoc />
    public partial class Initial : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateSequence(
                name: "ids",
                startValue: 1000L,
                incrementBy: 200);

            migrationBuilder.CreateTable(
                name: "accounts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    role = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: true),
                    user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    security_stamp = table.Column<string>(type: "text", nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true),
                    phone_number = table.Column<string>(type: "text", nullable: true),
                    phone_number_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    two_factor_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    lockout_end = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lockout_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    access_failed_count = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_accounts", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "checkouts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    purpose = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    price_id = table.Column<long>(type: "bigint", nullable: true),
                    holding_id = table.Column<long>(type: "bigint", nullable: true),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    email = table.Column<string>(type: "character varying(254)", maxLength: 254, nullable: false),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    with_trial = table.Column<bool>(type: "boolean", nullable: false),
                    turn = table.Column<int>(type: "integer", nullable: false),
                    session = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: true),
                    state = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    completed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    made_account = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_checkouts", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "clock_moves",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    from_moment = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    to_moment = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    reached = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    counts = table.Column<string>(type: "jsonb", nullable: false),
                    error = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_clock_moves", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "data_protection_keys",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    friendly_name = table.Column<string>(type: "text", nullable: true),
                    xml = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_data_protection_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "due_work",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    subject_id = table.Column<long>(type: "bigint", nullable: false),
                    turn = table.Column<int>(type: "integer", nullable: false),
                    attempt = table.Column<int>(type: "integer", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ready_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    key = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    payload = table.Column<string>(type: "jsonb", nullable: true),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    last_error = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_due_work", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "editions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    month_date = table.Column<LocalDate>(type: "date", nullable: false),
                    title = table.Column<string>(type: "character varying(160)", maxLength: 160, nullable: false),
                    opening = table.Column<string>(type: "text", nullable: false),
                    release_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    scheduled = table.Column<bool>(type: "boolean", nullable: false),
                    released_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    announce = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_editions", x => x.id);
                    table.CheckConstraint("ck_editions_month", "extract(day from month_date) = 1");
                });

            migrationBuilder.CreateTable(
                name: "letters",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    to_address = table.Column<string>(type: "character varying(254)", maxLength: 254, nullable: false),
                    to_name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    fields = table.Column<string>(type: "jsonb", nullable: false),
                    edition_id = table.Column<long>(type: "bigint", nullable: true),
                    sign_in_link_id = table.Column<long>(type: "bigint", nullable: true),
                    key = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    subject = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: true),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    not_before = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    last_error = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_letters", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "plans",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    rank = table.Column<int>(type: "integer", nullable: false),
                    description = table.Column<string>(type: "text", nullable: false),
                    promise = table.Column<string>(type: "jsonb", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_plans", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "shelves",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    mark = table.Column<string>(type: "character varying(2)", maxLength: 2, nullable: false),
                    colour = table.Column<int>(type: "integer", nullable: false),
                    order = table.Column<int>(type: "integer", nullable: false),
                    description = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_shelves", x => x.id);
                    table.CheckConstraint("ck_shelves_colour", "colour between 1 and 8");
                });

            migrationBuilder.CreateTable(
                name: "site",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    tagline = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: false),
                    about = table.Column<string>(type: "text", nullable: false),
                    zone_id = table.Column<string>(type: "character varying(60)", maxLength: 60, nullable: false),
                    currency = table.Column<string>(type: "character(3)", fixedLength: true, maxLength: 3, nullable: false),
                    help_address = table.Column<string>(type: "character varying(254)", maxLength: 254, nullable: false),
                    picture = table.Column<string>(type: "text", nullable: false),
                    colour = table.Column<int>(type: "integer", nullable: false),
                    set_up_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    is_demo = table.Column<bool>(type: "boolean", nullable: false),
                    clock_ahead_ms = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_site", x => x.id);
                    table.CheckConstraint("ck_site_only_one", "id = 1");
                });

            migrationBuilder.CreateTable(
                name: "standing_counts",
                columns: table => new
                {
                    standing = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    members = table.Column<int>(type: "integer", nullable: false, defaultValue: 0)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_standing_counts", x => x.standing);
                });

            migrationBuilder.CreateTable(
                name: "account_claims",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    user_id = table.Column<long>(type: "bigint", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_claims", x => x.id);
                    table.ForeignKey(
                        name: "fk_account_claims_accounts_user_id",
                        column: x => x.user_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "account_logins",
                columns: table => new
                {
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    provider_key = table.Column<string>(type: "text", nullable: false),
                    provider_display_name = table.Column<string>(type: "text", nullable: true),
                    user_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_logins", x => new { x.login_provider, x.provider_key });
                    table.ForeignKey(
                        name: "fk_account_logins_accounts_user_id",
                        column: x => x.user_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "account_tokens",
                columns: table => new
                {
                    user_id = table.Column<long>(type: "bigint", nullable: false),
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_account_tokens", x => new { x.user_id, x.login_provider, x.name });
                    table.ForeignKey(
                        name: "fk_account_tokens_accounts_user_id",
                        column: x => x.user_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sign_in_links",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    account_id = table.Column<long>(type: "bigint", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    used_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    return_path = table.Column<string>(type: "character varying(300)", maxLength: 300, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sign_in_links", x => x.id);
                    table.ForeignKey(
                        name: "fk_sign_in_links_accounts_account_id",
                        column: x => x.account_id,
                        principalTable: "accounts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "members",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    email = table.Column<string>(type: "character varying(254)", maxLength: 254, nullable: false),
                    joined_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wants_news = table.Column<bool>(type: "boolean", nullable: false),
                    standing = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    standing_plan_id = table.Column<long>(type: "bigint", nullable: true),
                    standing_since = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_members", x => x.id);
                    table.ForeignKey(
                        name: "fk_members_plans_standing_plan_id",
                        column: x => x.standing_plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "prices",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    button = table.Column<string>(type: "character varying(60)", maxLength: 60, nullable: false),
                    terms = table.Column<string>(type: "jsonb", nullable: false),
                    code = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    archived_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_prices", x => x.id);
                    table.ForeignKey(
                        name: "fk_prices_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "pieces",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    shelf_id = table.Column<long>(type: "bigint", nullable: false),
                    edition_id = table.Column<long>(type: "bigint", nullable: true),
                    title = table.Column<string>(type: "character varying(160)", maxLength: 160, nullable: false),
                    summary = table.Column<string>(type: "character varying(600)", maxLength: 600, nullable: false),
                    picture = table.Column<string>(type: "text", nullable: true),
                    picture_alt = table.Column<string>(type: "text", nullable: true),
                    video_url = table.Column<string>(type: "text", nullable: true),
                    minutes = table.Column<int>(type: "integer", nullable: true),
                    ready = table.Column<bool>(type: "boolean", nullable: false),
                    released_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    version = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_pieces", x => x.id);
                    table.CheckConstraint("ck_pieces_minutes", "minutes is null or minutes between 1 and 6000");
                    table.ForeignKey(
                        name: "fk_pieces_editions_edition_id",
                        column: x => x.edition_id,
                        principalTable: "editions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_pieces_shelves_shelf_id",
                        column: x => x.shelf_id,
                        principalTable: "shelves",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "cards",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    token = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    label = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    added_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_cards", x => x.id);
                    table.ForeignKey(
                        name: "fk_cards_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "journal",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: true),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    text = table.Column<string>(type: "text", nullable: false),
                    by = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: true),
                    payment_id = table.Column<long>(type: "bigint", nullable: true),
                    piece_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_journal", x => x.id);
                    table.ForeignKey(
                        name: "fk_journal_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "standing_changes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    from = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: true),
                    to = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_standing_changes", x => x.id);
                    table.ForeignKey(
                        name: "fk_standing_changes_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "holdings",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    plan_id = table.Column<long>(type: "bigint", nullable: false),
                    price_id = table.Column<long>(type: "bigint", nullable: true),
                    source = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    starts_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    anchor = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    note = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: true),
                    is_over = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_holdings", x => x.id);
                    table.ForeignKey(
                        name: "fk_holdings_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_holdings_plans_plan_id",
                        column: x => x.plan_id,
                        principalTable: "plans",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_holdings_prices_price_id",
                        column: x => x.price_id,
                        principalTable: "prices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "openings",
                columns: table => new
                {
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    first_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    done_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_openings", x => new { x.member_id, x.piece_id });
                    table.ForeignKey(
                        name: "fk_openings_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_openings_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "piece_bodies",
                columns: table => new
                {
                    piece_id = table.Column<long>(type: "bigint", nullable: false),
                    html = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_piece_bodies", x => x.piece_id);
                    table.ForeignKey(
                        name: "fk_piece_bodies_pieces_piece_id",
                        column: x => x.piece_id,
                        principalTable: "pieces",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "holding_facts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    holding_id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    from = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    to = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    reason = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: true),
                    payment_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_holding_facts", x => x.id);
                    table.CheckConstraint("ck_holding_facts_stretch", "\"to\" is null or \"to\" >= \"from\"");
                    table.ForeignKey(
                        name: "fk_holding_facts_holdings_holding_id",
                        column: x => x.holding_id,
                        principalTable: "holdings",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "payments",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    holding_id = table.Column<long>(type: "bigint", nullable: false),
                    price_id = table.Column<long>(type: "bigint", nullable: false),
                    purpose = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    outcome = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    period_from = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    period_to = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    turn = table.Column<int>(type: "integer", nullable: false),
                    attempt = table.Column<int>(type: "integer", nullable: false),
                    key = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    charge_ref = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    card_label = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    refusal = table.Column<string>(type: "character varying(200)", maxLength: 200, nullable: true),
                    refunded_minor = table.Column<long>(type: "bigint", nullable: false),
                    charged_back = table.Column<bool>(type: "boolean", nullable: false),
                    currency = table.Column<string>(type: "character(3)", fixedLength: true, maxLength: 3, nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_payments", x => x.id);
                    table.CheckConstraint("ck_payments_amount", "amount_minor > 0");
                    table.CheckConstraint("ck_payments_refunded", "refunded_minor between 0 and amount_minor");
                    table.ForeignKey(
                        name: "fk_payments_holdings_holding_id",
                        column: x => x.holding_id,
                        principalTable: "holdings",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_payments_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_payments_prices_price_id",
                        column: x => x.price_id,
                        principalTable: "prices",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "ledger",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    posting_id = table.Column<long>(type: "bigint", nullable: false),
                    payment_id = table.Column<long>(type: "bigint", nullable: false),
                    member_id = table.Column<long>(type: "bigint", nullable: false),
                    account = table.Column<string>(type: "character varying(40)", maxLength: 40, nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    text = table.Column<string>(type: "character varying(120)", maxLength: 120, nullable: false),
                    currency = table.Column<string>(type: "character(3)", fixedLength: true, maxLength: 3, nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_ledger", x => x.id);
                    table.ForeignKey(
                        name: "fk_ledger_members_member_id",
                        column: x => x.member_id,
                        principalTable: "members",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_ledger_payments_payment_id",
                        column: x => x.payment_id,
                        principalTable: "payments",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "refunds",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    payment_id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    is_chargeback = table.Column<bool>(type: "boolean", nullable: false),
                    reason = table.Column<string>(type: "character varying(400)", maxLength: 400, nullable: false),
                    key = table.Column<string>(type: "character varying(80)", maxLength: 80, nullable: false),
                    currency = table.Column<string>(type: "character(3)", fixedLength: true, maxLength: 3, nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_refunds", x => x.id);
                    table.CheckConstraint("ck_refunds_amount", "amount_minor > 0");
                    table.ForeignKey(
                        name: "fk_refunds_payments_payment_id",
                        column: x => x.payment_id,
                        principalTable: "payments",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "ix_account_claims_user_id",
                table: "account_claims",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_account_logins_user_id",
                table: "account_logins",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "accounts",
                column: "normalized_user_name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ux_accounts_email",
                table: "accounts",
                column: "normalized_email",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_cards_member_id_added_at",
                table: "cards",
                columns: new[] { "member_id", "added_at" });

            migrationBuilder.CreateIndex(
                name: "ix_checkouts_session",
                table: "checkouts",
                column: "session",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_due_work_key",
                table: "due_work",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_due_work_ready_at_id",
                table: "due_work",
                columns: new[] { "ready_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_due_work_subject_id_kind",
                table: "due_work",
                columns: new[] { "subject_id", "kind" });

            migrationBuilder.CreateIndex(
                name: "ix_editions_month_date",
                table: "editions",
                column: "month_date",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_holding_facts_holding_id",
                table: "holding_facts",
                column: "holding_id");

            migrationBuilder.CreateIndex(
                name: "ix_holdings_member_id",
                table: "holdings",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_holdings_plan_id",
                table: "holdings",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_holdings_price_id",
                table: "holdings",
                column: "price_id");

            migrationBuilder.CreateIndex(
                name: "ux_holdings_one_at_a_time",
                table: "holdings",
                columns: new[] { "member_id", "plan_id" },
                unique: true,
                filter: "not is_over");

            migrationBuilder.CreateIndex(
                name: "ix_journal_at",
                table: "journal",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_journal_member_id_at",
                table: "journal",
                columns: new[] { "member_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_ledger_member_id",
                table: "ledger",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_ledger_payment_id",
                table: "ledger",
                column: "payment_id");

            migrationBuilder.CreateIndex(
                name: "ix_ledger_posting_id",
                table: "ledger",
                column: "posting_id");

            migrationBuilder.CreateIndex(
                name: "ix_letters_key",
                table: "letters",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_letters_member_id",
                table: "letters",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_letters_refused",
                table: "letters",
                column: "id",
                filter: "state = 'Refused'");

            migrationBuilder.CreateIndex(
                name: "ix_members_joined_at",
                table: "members",
                column: "joined_at");

            migrationBuilder.CreateIndex(
                name: "ix_members_name",
                table: "members",
                column: "name");

            migrationBuilder.CreateIndex(
                name: "ix_members_standing_plan_id",
                table: "members",
                column: "standing_plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_members_standing_standing_plan_id",
                table: "members",
                columns: new[] { "standing", "standing_plan_id" });

            migrationBuilder.CreateIndex(
                name: "ix_openings_piece_id",
                table: "openings",
                column: "piece_id");

            migrationBuilder.CreateIndex(
                name: "ix_payments_at",
                table: "payments",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_payments_charge_ref",
                table: "payments",
                column: "charge_ref");

            migrationBuilder.CreateIndex(
                name: "ix_payments_key",
                table: "payments",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_payments_member_id",
                table: "payments",
                column: "member_id");

            migrationBuilder.CreateIndex(
                name: "ix_payments_price_id",
                table: "payments",
                column: "price_id");

            migrationBuilder.CreateIndex(
                name: "ux_payments_one_per_turn",
                table: "payments",
                columns: new[] { "holding_id", "turn", "purpose" },
                unique: true,
                filter: "outcome = 'Approved'");

            migrationBuilder.CreateIndex(
                name: "ix_pieces_edition_id",
                table: "pieces",
                column: "edition_id");

            migrationBuilder.CreateIndex(
                name: "ix_pieces_shelf_id",
                table: "pieces",
                column: "shelf_id");

            migrationBuilder.CreateIndex(
                name: "ix_plans_name",
                table: "plans",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_prices_code",
                table: "prices",
                column: "code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_prices_plan_id",
                table: "prices",
                column: "plan_id");

            migrationBuilder.CreateIndex(
                name: "ix_refunds_at",
                table: "refunds",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_refunds_key",
                table: "refunds",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_refunds_payment_id",
                table: "refunds",
                column: "payment_id");

            migrationBuilder.CreateIndex(
                name: "ix_shelves_name",
                table: "shelves",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_sign_in_links_account_id",
                table: "sign_in_links",
                column: "account_id");

            migrationBuilder.CreateIndex(
                name: "ix_standing_changes_at",
                table: "standing_changes",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_standing_changes_member_id",
                table: "standing_changes",
                column: "member_id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "account_claims");

            migrationBuilder.DropTable(
                name: "account_logins");

            migrationBuilder.DropTable(
                name: "account_tokens");

            migrationBuilder.DropTable(
                name: "cards");

            migrationBuilder.DropTable(
                name: "checkouts");

            migrationBuilder.DropTable(
                name: "clock_moves");

            migrationBuilder.DropTable(
                name: "data_protection_keys");

            migrationBuilder.DropTable(
                name: "due_work");

            migrationBuilder.DropTable(
                name: "holding_facts");

            migrationBuilder.DropTable(
                name: "journal");

            migrationBuilder.DropTable(
                name: "ledger");

            migrationBuilder.DropTable(
                name: "letters");

            migrationBuilder.DropTable(
                name: "openings");

            migrationBuilder.DropTable(
                name: "piece_bodies");

            migrationBuilder.DropTable(
                name: "refunds");

            migrationBuilder.DropTable(
                name: "sign_in_links");

            migrationBuilder.DropTable(
                name: "site");

            migrationBuilder.DropTable(
                name: "standing_changes");

            migrationBuilder.DropTable(
                name: "standing_counts");

            migrationBuilder.DropTable(
                name: "pieces");

            migrationBuilder.DropTable(
                name: "payments");

            migrationBuilder.DropTable(
                name: "accounts");

            migrationBuilder.DropTable(
                name: "editions");

            migrationBuilder.DropTable(
                name: "shelves");

            migrationBuilder.DropTable(
                name: "holdings");

            migrationBuilder.DropTable(
                name: "members");

            migrationBuilder.DropTable(
                name: "prices");

            migrationBuilder.DropTable(
                name: "plans");

            migrationBuilder.DropSequence(
                name: "ids");
        }
    }
}
