// Light paper or dark, by the user's choice; kept in the browser.
const KEY = "wring.look";

class Look {
  dark = $state(false);

  #show(): void {
    document.documentElement.setAttribute("theme", this.dark ? "g90" : "white");
    document.documentElement.setAttribute("data-look", this.dark ? "dark" : "light");
  }

  restore(): void {
    this.dark = localStorage.getItem(KEY) === "dark";
    this.#show();
  }

  toggle(): void {
    this.dark = !this.dark;
    localStorage.setItem(KEY, this.dark ? "dark" : "light");
    this.#show();
  }
}

export const look = new Look();
