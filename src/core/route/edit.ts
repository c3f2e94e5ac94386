import type { Route, Seat, Series, Stage } from './route';

/** The series with `change` applied to every series in it, its own parts last. */
function throughSeries(series: Series, change: (series: Series) => Series): Series {
  const parts = series.parts.map((part): Route => {
    if (part.kind === 'stage') return part;
    if (part.kind === 'series') return throughSeries(part, change);
    return {
      ...part,
      branches: part.branches.map((branch) => ({ ...branch, route: throughSeries(branch.route, change) })),
    };
  });
  return change({ ...series, parts });
}

/** The route with a stage put behind another one, in the same series; at its end when `after` is null. */
export function insertAfter(route: Series, after: string | null, stage: Stage): Series {
  if (after === null) return { ...route, parts: [...route.parts, stage] };
  return throughSeries(route, (series) => ({
    ...series,
    parts: series.parts.flatMap((part) => (part.kind === 'stage' && part.id === after ? [part, stage] : [part])),
  }));
}

/** The route with a stage one place earlier (-1) or later (1) in its own series; unchanged at the series' end. */
export function moveStage(route: Series, id: string, by: -1 | 1): Series {
  return throughSeries(route, (series) => {
    const at = series.parts.findIndex((part) => part.kind === 'stage' && part.id === id);
    const to = at + by;
    if (at < 0 || to < 0 || to >= series.parts.length) return series;
    const parts = series.parts.slice();
    parts.splice(to, 0, ...parts.splice(at, 1));
    return { ...series, parts };
  });
}

/** The seats that are asked as soon as the route is sent: of its first stage, or of the first stage of each branch. */
export function firstAsked(route: Route): { readonly stage: Stage; readonly seat: Seat }[] {
  if (route.kind === 'stage') {
    const first = route.order === 'together' ? route.seats : route.seats.slice(0, 1);
    return first.map((seat) => ({ stage: route, seat }));
  }
  if (route.kind === 'parallel') return route.branches.flatMap((branch) => firstAsked(branch.route));
  const [first] = route.parts;
  return first ? firstAsked(first) : [];
}
