using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace FreshBoot.Data.Migrations
{
    /// <inheritdoc />
    public partial class Diagnoses : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "diagnoses",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    Tag = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    RunId = table.Column<string>(type: "TEXT", nullable: true),
                    StepId = table.Column<string>(type: "TEXT", nullable: true),
                    Rung = table.Column<string>(type: "TEXT", nullable: false),
                    Message = table.Column<string>(type: "TEXT", nullable: true),
                    Answers = table.Column<string>(type: "TEXT", nullable: false),
                    Cause = table.Column<string>(type: "TEXT", nullable: true),
                    Teaches = table.Column<bool>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_diagnoses", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "step_times",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Step = table.Column<string>(type: "TEXT", nullable: false),
                    UsualMinutes = table.Column<double>(type: "REAL", nullable: false),
                    TookMinutes = table.Column<double>(type: "REAL", nullable: false),
                    RunId = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_step_times", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_diagnoses_RunId_StepId",
                table: "diagnoses",
                columns: new[] { "RunId", "StepId" });

            migrationBuilder.CreateIndex(
                name: "IX_diagnoses_Tag",
                table: "diagnoses",
                column: "Tag");

            migrationBuilder.CreateIndex(
                name: "IX_step_times_RunId",
                table: "step_times",
                column: "RunId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "diagnoses");

            migrationBuilder.DropTable(
                name: "step_times");
        }
    }
}
