using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace FreshBoot.Data.Migrations
{
    /// <inheritdoc />
    public partial class Start : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "machines",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Tag = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    Bay = table.Column<int>(type: "INTEGER", nullable: true),
                    Aim = table.Column<string>(type: "TEXT", nullable: true),
                    TakenInAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Dossier = table.Column<string>(type: "TEXT", nullable: false),
                    NextReceipt = table.Column<long>(type: "INTEGER", nullable: false),
                    LastReceivedAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_machines", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "bundles",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MachineId = table.Column<int>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Sha256 = table.Column<string>(type: "TEXT", nullable: false),
                    SizeBytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ReceivedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Warnings = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_bundles", x => x.Id);
                    table.ForeignKey(
                        name: "FK_bundles_machines_MachineId",
                        column: x => x.MachineId,
                        principalTable: "machines",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "fact_history",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MachineId = table.Column<int>(type: "INTEGER", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<string>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    Origin = table.Column<string>(type: "TEXT", nullable: false),
                    TakenAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ReceivedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: true),
                    Receipt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_fact_history", x => x.Id);
                    table.ForeignKey(
                        name: "FK_fact_history_machines_MachineId",
                        column: x => x.MachineId,
                        principalTable: "machines",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "IX_bundles_MachineId",
                table: "bundles",
                column: "MachineId");

            migrationBuilder.CreateIndex(
                name: "IX_fact_history_MachineId_Key",
                table: "fact_history",
                columns: new[] { "MachineId", "Key" });

            migrationBuilder.CreateIndex(
                name: "IX_machines_Bay",
                table: "machines",
                column: "Bay",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_machines_Tag",
                table: "machines",
                column: "Tag",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "bundles");

            migrationBuilder.DropTable(
                name: "fact_history");

            migrationBuilder.DropTable(
                name: "machines");
        }
    }
}
