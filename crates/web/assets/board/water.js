// The water on the ground: its map under the heads and its figures beside the board. Both come from
// the server, also while a head is dragged: the newest place is asked for as soon as the answer to
// the one before is here.

const $ = (id) => document.getElementById(id);

export const watering = (Base) =>
  class extends Base {
    /** Shows the water on an area, or on all. */
    async showWater(area = "") {
      this.water = {
        wind: Number($("water-speed")?.value ?? 0),
        from: $("water-from")?.value ?? "",
        ...this.water,
        area,
      };
      this.was = {};
      await this.askWater();
    }

    hideWater() {
      this.water = null;
      $("y-water").replaceChildren();
      $("water").replaceChildren();
      this.svg.classList.remove("watered");
    }

    async askWater() {
      if (!this.water) return;
      const { area, wind, from } = this.water;
      const asked = (this.askedWater = {});
      const response = await fetch(
        `/jobs/${this.job}/ground/coverage?${new URLSearchParams({ area, wind, from })}`,
      ).catch(() => null);
      if (!response?.ok || asked !== this.askedWater || !this.water || this.off.signal.aborted) return;
      this.takeWater(await response.json(), false);
    }

    /** What a gesture would do, while the hand still moves. */
    async tryWater(gesture) {
      this.nextTry = gesture;
      if (!this.water || this.trying) return;
      this.trying = true;
      while (this.nextTry && this.water) {
        const body = JSON.stringify({ asked: this.water, gesture: this.nextTry });
        this.nextTry = null;
        const response = await fetch(`/jobs/${this.job}/ground/coverage`, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body,
        }).catch(() => null);
        // Let go meanwhile: what was saved is shown instead.
        if (response?.ok && this.hold && !this.off.signal.aborted)
          this.takeWater(await response.json(), true);
      }
      this.trying = false;
    }

    takeWater({ map, panel }, tried) {
      const fresh = new DOMParser().parseFromString(
        `<svg xmlns="http://www.w3.org/2000/svg">${map}</svg>`,
        "image/svg+xml",
      ).documentElement;
      $("y-water").replaceChildren(...[...fresh.childNodes].map((n) => document.importNode(n, true)));
      this.svg.classList.add("watered");
      const place = $("water");
      const open = new Map(
        [...place.querySelectorAll("details[data-keep]")].map((d) => [d.dataset.keep, d.open]),
      );
      const now = Object.fromEntries(
        [...place.querySelectorAll("[data-figure]")].map((e) => [e.dataset.figure, e.textContent]),
      );
      // What it was before the hand began, or before the last edit.
      if (!tried && !this.tried) this.was = now;
      if (tried && !this.tried) this.was = now;
      this.tried = tried;
      place.innerHTML = panel;
      window.htmx?.process(place);
      place
        .querySelectorAll("details[data-keep]")
        .forEach((d) => open.has(d.dataset.keep) && (d.open = open.get(d.dataset.keep)));
      for (const figure of place.querySelectorAll("[data-figure]")) {
        const was = this.was?.[figure.dataset.figure];
        if (was && was !== figure.textContent)
          place.querySelector(`[data-was="${figure.dataset.figure}"]`).textContent = `was ${was}`;
      }
    }

    windChanged() {
      if (!this.water) return;
      Object.assign(this.water, { wind: Number($("water-speed").value), from: $("water-from").value });
      this.askWater();
    }
  };
