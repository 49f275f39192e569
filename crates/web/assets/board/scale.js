// The scale bar: a round length that is about a hundred pixels wide.

const bar = document.getElementById.bind(document, "scale-bar");
const WIDE = 110;

export const showScale = (mpp, units) => {
  const us = units === "us";
  const unit = us ? 0.3048 : 1;
  const wanted = (WIDE * mpp) / unit;
  const power = 10 ** Math.floor(Math.log10(wanted));
  const step = [5, 2, 1].find((n) => n * power <= wanted) * power;
  const small = us ? `${Math.round(step * 12)} in` : `${Math.round(step * 100)} cm`;
  bar().querySelector("i").style.width = `${(step * unit) / mpp}px`;
  bar().querySelector("span").textContent = step < 1 ? small : `${step} ${us ? "ft" : "m"}`;
};
