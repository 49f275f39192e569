//! Findings of drip, of what all valves share, and of heads against each other, in words.

use crate::drip::emitter_flow;
use crate::names::either;
use crate::said::{Said, said};
use crate::working::{Working, percent};
use fenlo_core::findings::{BackflowFault, Check};
use fenlo_core::layout::Direction;
use fenlo_core::plan::DripSchool;
use fenlo_core::units::{Flow, Length, Pressure, UnitSystem};
use fenlo_core::zone::Standing;

/// Speed of a pressure wave, m/s, in round figures.
fn wave(metres: f64, u: UnitSystem) -> String {
    match u {
        UnitSystem::Us => format!("{:.0} ft/s", (metres / 0.3048 / 50.0).round() * 50.0),
        UnitSystem::Metric | UnitSystem::MetricBar => format!("{metres:.0} m/s"),
    }
}

fn school(school: DripSchool) -> &'static str {
    match school {
        DripSchool::AlwaysBoth => "always filter, always regulate",
        DripSchool::RegulateByRating => "always filter, regulate where static exceeds the rating",
        DripSchool::OpenRuns => "always filter, no regulator on long open runs",
        DripSchool::FilterIfDirty => "always regulate, filter wells, tanks and dirty water",
    }
}

/// How what the tubing must hold comes about.
fn standing(working: Working, s: &Standing, rating: Pressure, u: UnitSystem) -> Working {
    let at_valve = s.held.map_or_else(
        || {
            format!(
                "{}: the highest static, nothing regulates in the line",
                s.before.show(u)
            )
        },
        |set| {
            if set < s.before {
                format!("{}: the set point", set.show(u))
            } else {
                format!("{}: less than the set point", s.before.show(u))
            }
        },
    );
    working
        .with("at the valve, water standing", at_valve)
        .with(
            "lowest point of the zone",
            format!(
                "{} below it: {} more",
                s.below.show(u),
                Pressure::of_height(s.below).show(u)
            ),
        )
        .with("standing there", s.at_rest.show(u))
        .with("running, at most", s.running.show(u))
        .with("tubing and fittings rated", rating.show(u))
}

/// Where it stands so high, in a sentence.
fn lowest_point(s: &Standing, u: UnitSystem) -> String {
    if s.below > Length::from_m(0.05) {
        format!(" at the lowest point, {} below the valve", s.below.show(u))
    } else {
        String::new()
    }
}

pub(crate) fn of_drip(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::DripNoFilter { school: rule } => said(
            "Drip without a filter",
            "Emitters clog from what no eye sees; the filter goes upstream of the regulator.",
            Working::new(
                "every drip zone has a filter",
                format!("house rule: {}", school(*rule)),
            )
            .gives("missing"),
        ),
        Check::DripNoRegulator {
            school: rule,
            standing: s,
            rating,
            bodies,
        } => {
            let bodies = if *bodies {
                " Regulated bodies mean nothing to drip: only what stands in the line before it counts."
            } else {
                ""
            };
            said(
                "Drip without a regulator",
                format!(
                    "{} reach tubing and fittings{} when an end is closed or a valve downstream \
                        shuts.{bodies}",
                    s.most().show(u),
                    lowest_point(s, u)
                ),
                standing(
                    Working::new("regulate drip", format!("house rule: {}", school(*rule))),
                    s,
                    *rating,
                    u,
                )
                .gives("missing"),
            )
        }
        Check::DripOverRating { standing: s, rating } => said(
            "Fittings will let go",
            format!(
                "{}{} against a rating of {}: relieve pressure before opening and regulate first.",
                s.most().show(u),
                lowest_point(s, u),
                rating.show(u)
            ),
            standing(
                Working::new(
                    "what stands or runs at the lowest point ≤ rating",
                    "physics: nothing is lost where nothing flows; rating is a house rule",
                ),
                s,
                *rating,
                u,
            )
            .gives(format!("{} over", (s.most() - *rating).show(u))),
        ),
        Check::DripNearRating { standing: s, rating } => said(
            "Regulated close to the rating",
            format!(
                "{}{} against a rating of {}: presets hold within about 10 %. Take the next lower one.",
                s.at_rest.show(u),
                lowest_point(s, u),
                rating.show(u)
            ),
            standing(
                Working::new("standing at the lowest point ≤ 90 % of the rating", "practice"),
                s,
                *rating,
                u,
            )
            .gives(format!("{} of the rating", percent(s.at_rest / *rating))),
        ),
        Check::DripFlushSlow {
            name,
            slowest,
            wanted,
            out,
            inlet,
            ..
        } => said(
            "Flushing is slow at the row ends",
            format!(
                "{name}: with the flush valve open {} run out, {} at the inlet, and the water moves at {} \
                    at the slowest \
                row end; {} carries settled silt off. Fewer rows at a time, a wider header, or open rows one \
                after the other.",
                out.show(u),
                inlet.show(u),
                slowest.show(u),
                wanted.show(u)
            ),
            Working::new(
                "velocity at the row ends while the flush valve is open",
                format!(
                    "the zone solved with the flush valve as an open end; {} is usual practice",
                    wanted.show(u)
                ),
            )
            .with("out of the flush valve", out.show(u))
            .with("at the inlet meanwhile", inlet.show(u))
            .with("wanted", wanted.show(u))
            .gives(slowest.show(u)),
        ),
        Check::DripSpacing {
            name,
            rows,
            apart,
            widest,
            soil,
            ..
        } => said(
            if *rows {
                "Rows too far apart for the soil"
            } else {
                "Emitters too far apart for the soil"
            },
            format!(
                "{name}: {} apart; on {} water spreads over about {}: dry stripes stay between.",
                apart.show_tape(u),
                crate::names::soil(*soil),
                widest.show_tape(u)
            ),
            Working::new(
                if *rows {
                    "row spacing ≤ what the soil carries"
                } else {
                    "emitter spacing ≤ what the soil carries"
                },
                "spacing by soil, as practised; wetted widths are planning figures: dig and look",
            )
            .with("soil", crate::names::soil(*soil).to_owned())
            .with("at most", widest.show_tape(u))
            .gives(apart.show_tape(u)),
        ),
        Check::DripDownhill {
            name,
            fall,
            height,
            tape,
            ..
        } => said(
            if *tape {
                "Tape on a slope"
            } else {
                "Rows run down the slope"
            },
            if *tape {
                format!(
                    "{name} falls {} over the longest row ({fall:.0} %): {} between its ends, where the \
                    tape works at about {}. Level ground, or compensating dripline.",
                    height.show(u),
                    Pressure::of_height(*height).show(u),
                    Pressure::from_psi(10.0).show_round(u)
                )
            } else {
                format!(
                    "{name}: they fall {} over the longest row ({fall:.0} %): when it shuts off, all that \
                        is in a row \
                    runs out at its low end. Along the contour every row stays full.",
                    height.show(u)
                )
            },
            Working::new(
                "fall over the longest row",
                "rows level along the contour, as practised",
            )
            .with("fall", format!("{fall:.1} %"))
            .with("height", height.show(u))
            .gives(Pressure::of_height(*height).show(u)),
        ),
        Check::RingUneven {
            name, emitters, left, ..
        } => said(
            "Ring without pressure",
            format!(
                "{name}: in a ring of {emitters} emitters only {} are left, no more than water {} high \
                    weighs: the lower side takes most of it. Fewer emitters in it, or a stronger one before it.",
                left.show(u),
                Length::from_m(*left / Pressure::of_height(Length::from_m(1.0))).show_tape(u)
            ),
            Working::new(
                "pressure in a ring that one emitter feeds",
                "p0 (Q / n q)^2, orifices that don't compensate",
            )
            .with("emitters", emitters.to_string())
            .gives(left.show(u)),
        ),
        Check::MicroTubeLong {
            name, longest, usual, ..
        } => said(
            "Long micro tube",
            format!(
                "{name}: {} to one emitter; {} is the most that is usual. Bring the line nearer, or set a \
                    manifold there.",
                longest.show(u),
                usual.show(u)
            ),
            Working::new(
                "longest micro tube",
                format!(
                    "practice: about {} and {} a run",
                    Length::from_ft(30.0).show(u),
                    emitter_flow(Flow::from_gpm(0.5), u)
                ),
            )
            .with("usual", usual.show(u))
            .gives(longest.show(u)),
        ),
        Check::DirtyFilter {
            clean,
            dirty,
            more,
            aim,
        } => said(
            "Not enough left for a dirty filter",
            format!(
                "{} at the last head with the filter clean; dirty it costs {} more and {} are left of the {} \
                 aimed at. Clean it before that, or take a larger one.",
                clean.show(u),
                more.show(u),
                dirty.show(u),
                aim.show(u)
            ),
            Working::new(
                "zone solved with a dirty filter",
                "planning figure for the filter",
            )
            .with("clean", clean.show(u))
            .with("dirty filter, more", more.show(u))
            .with("aim", aim.show(u))
            .gives(dirty.show(u)),
        ),
        _ => return None,
    })
}

pub(crate) fn of_system(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::BelowAim { gets, aim, band } => said(
            "Below its best",
            format!(
                "{} at the last head where {} are aimed at: it works, but short of its throw (best {}, \
                    usable \
                 from {}).",
                gets.show(u),
                aim.show(u),
                band.best.show_round(u),
                band.least.show_round(u)
            ),
            Working::new(
                "pressure at the last head ≥ the aim that one head alone would get",
                either(
                    u,
                    "practice: nominal less 10 %, else the bottom of the band and 3 psi, else the bottom",
                    "practice: nominal less 10 %, else the bottom of the band and 20 kPa, else the bottom",
                ),
            )
            .with("gets", gets.show(u))
            .with("aim", aim.show(u))
            .gives(format!("{} short", (*aim - *gets).show(u))),
        ),
        Check::BoosterNeeded {
            missing,
            flow,
            boost,
            aim,
        } => said(
            "Only more pressure helps",
            format!(
                "Not even one head gets the bottom of its band: {} are missing. Lower-pressure heads, drip, \
                 or a booster pump: {} at {} for all of them at {}.",
                missing.show(u),
                boost.show(u),
                flow.show(u),
                aim.show(u)
            ),
            Working::new(
                "boost: what the source must give more for the last head to get its aim",
                "zone solved with a raised supply curve; have the pump chosen by its own curve",
            )
            .with("missing for one head", missing.show(u))
            .with("flow to pass", flow.show(u))
            .with("aim", aim.show(u))
            .gives(format!("{} at {}", boost.show(u), flow.show(u))),
        ),
        Check::ServiceVelocity { shared, flow, surge } => said(
            format!("{} in {}", shared.velocity.show(u), shared.pipe),
            format!(
                "With this zone the shared {} runs at {}, the limit is {}: a valve that shuts at once adds \
                    up \
                 to {}.",
                shared.pipe,
                shared.velocity.show(u),
                shared.limit.show(u),
                surge.show_round(u)
            ),
            Working::new(
                "v = Q / (π d² / 4); surge Δp = ρ·a·v",
                format!(
                    "house rule for the limit; Joukowsky 1898, wave speed {} in plastic, {} in metal; \
                    valves shut slower, so an upper bound",
                    wave(400.0, u),
                    wave(1250.0, u)
                ),
            )
            .with("flow of the zone", flow.show(u))
            .with("limit", shared.limit.show(u))
            .with("surge, at most", surge.show_round(u))
            .gives(shared.velocity.show(u)),
        ),
        Check::SystemRange {
            set,
            range: (low, high),
        } => said(
            "No such set point",
            format!(
                "A system regulator can be set from {} to {}, not to {}.",
                low.show_round(u),
                high.show_round(u),
                set.show(u)
            ),
            Working::new("least ≤ set point ≤ most", "typical of the class")
                .with("set point", set.show(u))
                .gives("out of its range"),
        ),
        Check::SystemNoRoom { inlet, set, wanted } => said(
            "System regulator has no working room",
            format!(
                "{} arrive at it with the largest zone running, where {} + {} are needed: it holds nothing \
                 then.",
                inlet.show(u),
                set.show_round(u),
                wanted.show_round(u)
            ),
            Working::new("room = inlet − set point", "practice, house rule")
                .with("inlet", inlet.show(u))
                .with("set point", set.show(u))
                .with("wanted", wanted.show(u))
                .gives((*inlet - *set).show(u)),
        ),
        Check::BackflowPlace { device, why } => backflow(device, *why, u),
        Check::PumpCycles { flow, least } => said(
            "The pump will start and stop",
            format!(
                "This zone takes {}; below {} the pump starts and stops all the time. More heads on it, or \
                 a larger tank.",
                flow.show(u),
                least.show(u)
            ),
            Working::new("flow of the zone ≥ the pump's least", "the pump's own figure")
                .with("flow", flow.show(u))
                .with("least", least.show(u))
                .gives("too little"),
        ),
        Check::TooFewStations { valves, stations } => said(
            "Too few stations",
            format!(
                "{valves} valves, and the controller has {stations} stations: a larger one, or a module more."
            ),
            Working::new(
                "valves ≤ stations",
                "one valve is one station; a master valve has its own",
            )
            .with("valves", valves.to_string())
            .with("stations", stations.to_string())
            .gives(format!("{} missing", valves - *stations as usize)),
        ),
        _ => return None,
    })
}

/// A height of a hand or two, as people say it.
fn hand(length: Length, u: UnitSystem) -> String {
    if u.is_metric() {
        format!("{:.0} cm", length.m() * 100.0)
    } else {
        format!("{:.0} in", length.ft() * 12.0)
    }
}

fn backflow(device: &str, why: BackflowFault, u: UnitSystem) -> Said {
    let (text, rule) = match why {
        BackflowFault::OnlyItsValve => (
            "it protects only its own valve, downstream of it, and no valve may follow: in the chain before \
             all valves it protects nothing. Take one for each valve, or a device made for a shared line."
                .to_owned(),
            "an atmospheric breaker: one a valve, behind it".to_owned(),
        ),
        BackflowFault::OnlyHoseBib => (
            "it protects what hangs on a hose bib. Buried valves want a device made for a shared line."
                .to_owned(),
            "a hose breaker: on a hose bib only".to_owned(),
        ),
        BackflowFault::BelowHeads { highest, over } => (
            format!(
                "the highest outlet stands {} over the ground at it: it must stand {} above that, {} in all, \
                 or further uphill; or take a reduced-pressure assembly.",
                highest.show(u),
                hand(over, u),
                (highest + over).show(u)
            ),
            format!("commonly {} above the highest outlet", hand(over, u)),
        ),
    };
    said(
        "Backflow device in the wrong place",
        format!("{device}: {text}"),
        Working::new(
            rule,
            "local code to check; work on backflow devices is licensed work",
        )
        .gives("does not protect there"),
    )
}

pub(crate) fn of_heads(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::HeightOnValve {
            range,
            limit,
            bodies,
            drip,
        } => {
            let so = match (bodies, drip) {
                (true, _) => "bodies even the pressure out, but low heads still drain: take check valves",
                (_, true) => "the low rows drain through their emitters: one line for above, one for below",
                _ => "low heads drain, high ones get less: check valves, bodies, or a valve for each",
            };
            said(
                "Height between heads of one valve",
                format!("{} between the highest and the lowest: {so}.", range.show(u)),
                Working::new("height between heads of a valve ≤ limit", "practice")
                    .with("between them", range.show(u))
                    .with("limit", limit.show(u))
                    .gives(format!("{} of pressure", Pressure::of_height(*range).show(u))),
            )
        }
        Check::ArcsUnmatched {
            group, arcs, ratio, ..
        } => {
            let each: Vec<String> = arcs
                .iter()
                .map(|(arc, flow)| format!("{arc}° {}", flow.show(u)))
                .collect();
            said(
                "Arcs of one nozzle",
                format!(
                    "{group}: {} give the same on small arcs as on large ones, {ratio:.1} times the rate. \
                        Give \
                     each arc its nozzle.",
                    each.join(", ")
                ),
                Working::new(
                    "flow in proportion to the arc: 90° : 180° : 360° = 1 : 2 : 4",
                    "practice: over 1.15 watch, over 1.5 mend",
                )
                .with("arcs, flow a head", each.join(", "))
                .gives(format!("{ratio:.2}")),
            )
        }
        Check::AreaNotCovered { group, covered, area } => said(
            "Heads don't cover their area",
            format!(
                "{group}: spaced as listed its heads cover {}, its drawn area has {}.",
                covered.show(u),
                area.show(u)
            ),
            Working::new(
                "Σ spacing × row spacing × arc / 360 ≥ area",
                "practice: head to head",
            )
            .with("covered", covered.show(u))
            .with("drawn", area.show(u))
            .gives(percent(*covered / *area)),
        ),
        Check::ArcNotMade {
            group,
            heads,
            arc,
            made: (from, to),
        } => said(
            "No such arc",
            format!(
                "{group}: {heads} heads are set to {arc}°, which is not made: {from}° to {to}°, or a full \
                    circle."
            ),
            Working::new("arc that the nozzle can be set to", "typical of the class")
                .with("set", format!("{arc}°"))
                .gives("not made"),
        ),
        Check::NotHeadToHead {
            heads,
            of,
            gap,
            throw,
            along,
        } => {
            let (which, next) = match along {
                Direction::Row => ("along the row", "the head next to them in the row"),
                Direction::Rows => ("between rows", "the next row"),
                Direction::Nearest => ("to the nearest head", "the head next to them"),
            };
            said(
                "Not head to head",
                format!(
                    "{heads} of {of} heads do not reach {next}: the widest gap is {}, the throw at the \
                        pressure \
                     there {}.",
                    gap.show(u),
                    throw.show(u)
                ),
                Working::new(
                    "gap ≤ throw, along the row and between rows",
                    "practice: the spray of each head reaches its neighbours; never stretch beyond",
                )
                .with(format!("gap {which}"), gap.show(u))
                .with("throw", throw.show(u))
                .gives(format!("{} of the throw", percent(*gap / *throw))),
            )
        }
        _ => return None,
    })
}
