import { expect, expectAccessible, newProject, saved, test, type } from "./wring";

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
  await newProject(page, "Episode 12");
  await expect(page.getByText("Nothing here yet.")).toBeVisible();
  await expectAccessible(page);
  await type(page, "Name of the project", "Episode 12, final");
  await saved(page);
  await page.getByRole("link", { name: "Wring" }).click();
  const row = page.getByRole("row", { name: /Episode 12, final/ });
  await expect(row).toBeVisible();
  await row.getByRole("button", { name: /^Delete/ }).click();
  await page.getByRole("button", { name: "Delete", exact: true }).click();
  await expect(row).toBeHidden();
});

test("an unknown project says so and leads back", async ({ page }) => {
  await page.goto("/projects/no-such-thing");
  await expect(page.getByRole("heading")).toContainText("There is no such project");
  await page.getByRole("link", { name: "Back to the projects" }).click();
  await expect(page.getByRole("heading", { name: "Projects" })).toBeVisible();
});

test("the dark look is kept", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Dark look" }).click();
  await page.reload();
  await expect(page.getByRole("button", { name: "Light look" })).toBeVisible();
  await expectAccessible(page);
});
