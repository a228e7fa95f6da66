/** Words that several pages share. */

/** One bar, or from where to where. @param {number} first @param {number} last */
export const describeBars = (first, last) => {
  if (first === 0) return last === 0 ? gettext("pick-up") : interpolate(gettext("pick-up to bar %(last)s"), { last }, true);
  return first === last
    ? interpolate(gettext("bar %(n)s"), { n: first }, true)
    : interpolate(gettext("bars %(first)s to %(last)s"), { first, last }, true);
};
