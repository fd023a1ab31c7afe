import { clip, expect, expectAccessible, newProject, saved, test, type } from "./wring";

test("home lists the demo with length, tracks and last change, and is accessible", async ({ page }) => {
  await page.goto("/");
  const row = page.getByRole("row", { name: /Last Boat to Varnsey/ });
  await expect(row).toContainText("2:17");
  await expect(row).toContainText("6");
  await expect(row).toContainText(/\d{1,2} \w{3} \d{4}/);
  await expectAccessible(page);
});

test("a project is made, renamed, listed and deleted", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByText("A project needs a name.")).toBeVisible();
  await page.getByLabel("Name of the new project").fill("Episode 12");
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("button", { name: /^Play/ })).toBeVisible();
  await expect(page.getByText("Nothing here yet.")).toBeVisible();
  await expectAccessible(page);
  await type(page, "Name of the project", "Episode 12, final");
  await saved(page);
  await page.getByRole("link", { name: "Wring" }).click();
  const link = page.getByRole("link", { name: "Episode 12, final" });
  const row = page.getByRole("row").filter({ has: link });
  await expect(row).toBeVisible();
  await row.getByRole("button", { name: /^Delete/ }).click();
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await expect(row).toBeHidden();
  await page.getByRole("button", { name: "Restore Episode 12, final" }).first().click();
  await expect(row).toBeVisible();
});

test("an unknown project says so and leads back", async ({ page }) => {
  await page.goto("/projects/no-such-thing");
  await expect(page.getByRole("heading")).toContainText("There is no such project");
  await page.getByRole("link", { name: "Back to the projects" }).click();
  await expect(page.getByRole("heading", { name: "Projects" })).toBeVisible();
});

test("projects are sorted by their columns", async ({ page }) => {
  await newProject(page, "Aardvark cut");
  await page.goto("/");
  const first = page.getByRole("table").first().getByRole("row").nth(1);
  await page.getByRole("button", { name: "Length" }).click();
  await page.getByRole("button", { name: "Length" }).click();
  await expect(first).toContainText("Last Boat to Varnsey");
  await page.getByRole("button", { name: "Name" }).click();
  await expect(first).toContainText("Aardvark cut");
});

test("the dark look is kept; every page is accessible in both looks", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Dark look" }).click();
  await page.reload();
  await expect(page.getByRole("button", { name: "Light look" })).toBeVisible();
  for (const look of ["dark", "light"]) {
    if (look === "light") await page.getByRole("button", { name: "Light look" }).click();
    await expectAccessible(page);
    await page.getByRole("link", { name: "What takes how much room" }).click();
    await expect(page.getByRole("heading", { name: "What takes how much room" })).toBeVisible();
    await expectAccessible(page);
    await page.getByRole("navigation").getByRole("link", { name: "Projects" }).click();
    await page.getByRole("link", { name: "Last Boat to Varnsey" }).click();
    await clip(page, "Engineer 2").click();
    await page.getByRole("listitem").filter({ hasText: "Compressor" }).first().click();
    await expectAccessible(page);
    await page.getByRole("link", { name: "Wring" }).click();
    await expect(page.getByRole("heading", { name: "Projects" })).toBeVisible();
  }
});
