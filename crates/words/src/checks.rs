//! Findings of drip, of what all valves share, and of heads against each other, in words.

use crate::drip::emitter_flow;
use crate::names::either;
use crate::said::{Said, counted, one, said};
use crate::working::{Working, percent};
use fenlo_core::coverage::Direction;
use fenlo_core::findings::{BackflowFault, Check};
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
        DripSchool::RegulateByRating => "always filter; regulate when static pressure exceeds the rating",
        DripSchool::OpenRuns => "always filter; no regulator on long open runs",
        DripSchool::FilterIfDirty => "always regulate; filter wells, tanks and dirty water",
    }
}

/// How what the tubing must hold comes about.
fn standing(working: Working, s: &Standing, rating: Pressure, u: UnitSystem) -> Working {
    let at_valve = s.held.map_or_else(
        || format!("{}: highest static pressure, no regulator in the line", s.before.show(u)),
        |set| {
            if set < s.before {
                format!("{}: regulator setting", set.show(u))
            } else {
                format!("{}: below the regulator setting", s.before.show(u))
            }
        },
    );
    working
        .with("at the valve, no flow", at_valve)
        .with(
            "lowest point of the zone",
            format!("{} lower: adds {}", s.below.show(u), Pressure::of_height(s.below).show(u)),
        )
        .with("no flow, lowest point", s.at_rest.show(u))
        .with("with flow, highest", s.running.show(u))
        .with("rating of tubing and fittings", rating.show(u))
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
            "Drip zone has no filter",
            "Fine grit clogs emitters. Add a filter upstream of the regulator.",
            Working::new("every drip zone has a filter", format!("company standard: {}", school(*rule)))
                .gives("missing"),
        ),
        Check::DripNoRegulator { school: rule, standing: s, rating, bodies } => {
            let bodies = if *bodies {
                " Pressure-regulated bodies do not protect drip; only a regulator upstream in the line does."
            } else {
                ""
            };
            said(
                "Drip zone has no pressure regulator",
                format!(
                    "Tubing and fittings see {}{} when an end is closed or a downstream valve shuts.{bodies}",
                    s.most().show(u),
                    lowest_point(s, u)
                ),
                standing(
                    Working::new("drip zones are regulated", format!("company standard: {}", school(*rule))),
                    s,
                    *rating,
                    u,
                )
                .gives("missing"),
            )
        }
        Check::DripOverRating { standing: s, rating } => said(
            "Pressure above the drip rating",
            format!(
                "{}{}, rated {}: fittings can come apart. Add a regulator. Relieve pressure before opening \
                    anything.",
                s.most().show(u),
                lowest_point(s, u),
                rating.show(u)
            ),
            standing(
                Working::new(
                    "highest pressure at the lowest point, with or without flow ≤ rating",
                    "no friction loss without flow; rating: company standard",
                ),
                s,
                *rating,
                u,
            )
            .gives(format!("{} over the rating", (s.most() - *rating).show(u))),
        ),
        Check::DripNearRating { standing: s, rating } => said(
            "Regulator set close to the drip rating",
            format!(
                "{}{}, rated {}. In-line regulators hold within about 10%, so use the next lower setting.",
                s.at_rest.show(u),
                lowest_point(s, u),
                rating.show(u)
            ),
            standing(
                Working::new("pressure at the lowest point, no flow ≤ 90% of the rating", "practice"),
                s,
                *rating,
                u,
            )
            .gives(format!("{} of the rating", percent(s.at_rest / *rating))),
        ),
        Check::DripFlushSlow { name, slowest, wanted, out, inlet, .. } => said(
            "Flushing velocity too low at row ends",
            format!(
                "{name}: with the flush valve open, {} flows out at {} inlet pressure, and water moves at \
                    {} in the slowest row end; {} is needed to carry silt. Flush fewer rows at a time, \
                    use a larger header, or open rows one by one.",
                out.show(u),
                inlet.show(u),
                slowest.show(u),
                wanted.show(u)
            ),
            Working::new(
                "velocity at the row ends with the flush valve open",
                format!("zone solved with the flush valve open; {} is usual practice", wanted.show(u)),
            )
            .with("flow out of the flush valve", out.show(u))
            .with("inlet pressure while flushing", inlet.show(u))
            .with("wanted", wanted.show(u))
            .gives(slowest.show(u)),
        ),
        Check::DripSpacing { name, rows, apart, widest, soil, .. } => said(
            if *rows { "Row spacing too wide for the soil" } else { "Emitter spacing too wide for the soil" },
            format!(
                "{name}: spacing is {}. In {} water spreads about {}, so dry strips remain. Space them \
                    closer.",
                apart.show_tape(u),
                crate::names::soil(*soil),
                widest.show_tape(u)
            ),
            Working::new(
                if *rows {
                    "row spacing ≤ wetted width in this soil"
                } else {
                    "emitter spacing ≤ wetted width in this soil"
                },
                "usual spacing by soil; wetted widths are planning values, so dig and check",
            )
            .with("soil", crate::names::soil(*soil).to_owned())
            .with("maximum", widest.show_tape(u))
            .gives(apart.show_tape(u)),
        ),
        Check::DripDownhill { name, fall, height, tape, .. } => said(
            if *tape { "Drip tape on a slope" } else { "Rows run down the slope" },
            if *tape {
                format!(
                    "{name} drops {} over the longest row ({fall:.0}%), a difference of {} between its \
                        ends; tape works at about {}. Run rows level or use pressure-compensating \
                        dripline.",
                    height.show(u),
                    Pressure::of_height(*height).show(u),
                    Pressure::from_psi(10.0).show_round(u)
                )
            } else {
                format!(
                    "{name}: rows drop {} over the longest row ({fall:.0}%). After shutoff each row drains \
                        at its low end. Run rows along the contour.",
                    height.show(u)
                )
            },
            Working::new("drop over the longest row", "practice: rows level along the contour")
                .with("drop", format!("{fall:.1}%"))
                .with("height", height.show(u))
                .gives(Pressure::of_height(*height).show(u)),
        ),
        Check::RingUneven { name, emitters, left, .. } => said(
            "Too little pressure in the emitter ring",
            format!(
                "{name}: only {} remains in the ring of {emitters} emitters, equal to {} of height, so the \
                    low side takes most of the water. Use fewer emitters, or a larger emitter feeding the \
                    ring.",
                left.show(u),
                Length::from_m(*left / Pressure::of_height(Length::from_m(1.0))).show_tape(u)
            ),
            Working::new(
                "pressure in a ring that one emitter feeds",
                "p₀ · (Q / (n · q))², emitters without pressure compensation",
            )
            .with("emitters", emitters.to_string())
            .gives(left.show(u)),
        ),
        Check::MicroTubeLong { name, longest, usual, .. } => said(
            "Micro tubing too long",
            format!(
                "{name}: longest micro tubing is {}; usual maximum {}. Move the supply line closer or add \
                    a manifold there.",
                longest.show(u),
                usual.show(u)
            ),
            Working::new(
                "longest micro tubing",
                format!(
                    "practice: about {} and {} per run",
                    Length::from_ft(30.0).show(u),
                    emitter_flow(Flow::from_gpm(0.5), u)
                ),
            )
            .with("usual maximum", usual.show(u))
            .gives(longest.show(u)),
        ),
        Check::DirtyFilter { clean, dirty, more, aim } => said(
            "Too little pressure once the filter is dirty",
            format!(
                "Weakest head: {} with a clean filter. A dirty filter takes {} more and leaves {}; target \
                    {}. Clean it sooner or use a larger filter.",
                clean.show(u),
                more.show(u),
                dirty.show(u),
                aim.show(u)
            ),
            Working::new("zone solved with a dirty filter", "planning value for the filter")
                .with("clean", clean.show(u))
                .with("dirty filter, more", more.show(u))
                .with("target", aim.show(u))
                .gives(dirty.show(u)),
        ),
        _ => return None,
    })
}

pub(crate) fn of_system(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::BelowAim { gets, aim, band } => said(
            "Below target pressure",
            format!(
                "Weakest head gets {}, target {}. It works, but short of its radius (rated {}, minimum {}).",
                gets.show(u),
                aim.show(u),
                band.best.show_round(u),
                band.least.show_round(u)
            ),
            Working::new(
                "weakest nozzle pressure ≥ the target one head alone would reach",
                either(
                    u,
                    "practice: rated less 10%, else minimum plus 3 psi, else minimum",
                    "practice: rated less 10%, else minimum plus 20 kPa, else minimum",
                ),
            )
            .with("actual", gets.show(u))
            .with("aim", aim.show(u))
            .gives(format!("{} short", (*aim - *gets).show(u))),
        ),
        Check::BoosterNeeded { missing, flow, boost, aim } => said(
            "Not enough pressure even for one head",
            format!(
                "Even a single head stays {} below its minimum. Use lower-pressure heads or drip, or a \
                    booster pump adding {} at {} to bring all heads to {}.",
                missing.show(u),
                boost.show(u),
                flow.show(u),
                aim.show(u)
            ),
            Working::new(
                "boost: extra source pressure for the weakest head to reach its target",
                "zone solved with the supply curve raised; select the pump from its own curve",
            )
            .with("shortfall for one head", missing.show(u))
            .with("flow", flow.show(u))
            .with("aim", aim.show(u))
            .gives(format!("{} at {}", boost.show(u), flow.show(u))),
        ),
        Check::ServiceVelocity { shared, flow, surge } => said(
            format!("{} in {}", shared.velocity.show(u), shared.pipe),
            format!(
                "With this zone running, water in {} moves at {}; limit {}. A valve closing instantly adds \
                    up to {} of surge.",
                shared.pipe,
                shared.velocity.show(u),
                shared.limit.show(u),
                surge.show_round(u)
            ),
            Working::new(
                "v = Q / (π d² / 4); surge Δp = ρ·a·v",
                format!(
                    "limit: company standard; Joukowsky 1898, wave speed {} in plastic, {} in metal; real \
                        valves close slower, so this is an upper bound",
                    wave(400.0, u),
                    wave(1250.0, u)
                ),
            )
            .with("flow of the zone", flow.show(u))
            .with("limit", shared.limit.show(u))
            .with("surge, maximum", surge.show_round(u))
            .gives(shared.velocity.show(u)),
        ),
        Check::ReadingsStretched { run, drop, asked, error } => said(
            "Beyond what was read",
            format!(
                "The largest reading ran {} and dropped {}; the curve is used to {}. One psi of gauge error \
                 is {} there. Read again with more water running.",
                run.show(u),
                drop.show(u),
                asked.show(u),
                error.show(u)
            ),
            Working::new(
                "error × (flow ÷ flow read)^1.852",
                "Hazen-Williams exponent; a curve holds to twice the flow",
            )
            .with("flow read", run.show(u))
            .with("flow", asked.show(u))
            .gives(error.show(u)),
        ),
        Check::DeviceTooSmall { device, flow, most, loss, .. } => said(
            "Backflow preventer too small",
            format!(
                "{device} is made for up to {}; the largest zone runs {} through it and loses {} there. Use \
                 the next size.",
                most.show(u),
                flow.show(u),
                loss.show(u)
            ),
            Working::new("flow of the largest zone ≤ range of the device", "typical for this type and size")
                .with("flow", flow.show(u))
                .with("range up to", most.show(u))
                .gives(loss.show(u)),
        ),
        Check::SystemRange { set, range: (low, high) } => said(
            "Setting out of range",
            format!(
                "A system regulator adjusts from {} to {}; {} is outside that.",
                low.show_round(u),
                high.show_round(u),
                set.show(u)
            ),
            Working::new("minimum ≤ setting ≤ maximum", "typical for this type")
                .with("setting", set.show(u))
                .gives("out of range"),
        ),
        Check::SystemNoRoom { inlet, set, wanted } => said(
            "Inlet pressure too low for the system regulator",
            format!(
                "Inlet pressure is {} with the largest zone running; it needs {} + {} headroom, so it \
                    cannot hold its setting.",
                inlet.show(u),
                set.show_round(u),
                wanted.show_round(u)
            ),
            Working::new("headroom = inlet − setting", "company standard")
                .with("inlet", inlet.show(u))
                .with("setting", set.show(u))
                .with("wanted", wanted.show(u))
                .gives((*inlet - *set).show(u)),
        ),
        Check::BackflowPlace { device, why } => backflow(device, *why, u),
        Check::PumpCycles { flow, least } => said(
            "Pump will cycle",
            format!(
                "This zone uses {}; below {} the pump cycles. Put more heads on the zone or fit a larger \
                    pressure tank.",
                flow.show(u),
                least.show(u)
            ),
            Working::new("zone flow ≥ pump minimum", "pump data")
                .with("flow", flow.show(u))
                .with("minimum", least.show(u))
                .gives("too low"),
        ),
        Check::TooFewStations { valves, stations } => said(
            "Not enough controller stations",
            format!(
                "{} but {}. Add a station module or a larger controller.",
                counted(*valves, "valve"),
                counted(*stations as usize, "controller station")
            ),
            Working::new("valves ≤ stations", "one station per valve; a master valve has its own output")
                .with("valves", valves.to_string())
                .with("stations", stations.to_string())
                .gives(format!("{} more needed", valves - *stations as usize)),
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
            "it protects only when installed downstream of a single valve, with no valve after it. On the \
                shared line it does not protect. Use one per valve, or a device made for a shared line."
                .to_owned(),
            "atmospheric vacuum breaker: one per valve, downstream of it".to_owned(),
        ),
        BackflowFault::OnlyHoseBib => (
            "it protects a hose bib only. Buried valves need a device made for a shared line.".to_owned(),
            "hose vacuum breaker: hose bib only".to_owned(),
        ),
        BackflowFault::BelowHeads { highest, over } => (
            format!(
                "the highest outlet is {} above the ground at the device. Install the device {} higher \
                    than that ({} above ground), move it uphill, or use a reduced-pressure assembly.",
                highest.show(u),
                hand(over, u),
                (highest + over).show(u)
            ),
            format!("commonly {} above the highest outlet", hand(over, u)),
        ),
    };
    said(
        "Backflow preventer in the wrong place",
        format!("{device}: {text}"),
        Working::new(rule, "check local code; work on backflow preventers is licensed work")
            .gives("does not protect there"),
    )
}

pub(crate) fn of_heads(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::HeightOnValve { range, limit, bodies, drip } => {
            let so = match (bodies, drip) {
                (true, _) => {
                    "regulated bodies even out pressure, but low heads still drain; use bodies with check \
                        valves"
                }
                (_, true) => {
                    "low rows drain through their emitters; use one line for the upper rows and one for \
                        the lower"
                }
                _ => {
                    "low heads drain and high heads get less; use check valves, regulated bodies, or \
                        separate valves"
                }
            };
            said(
                "Elevation difference on one valve",
                format!("Heads differ by {} in elevation: {so}.", range.show(u)),
                Working::new("elevation difference on one valve ≤ limit", "practice")
                    .with("elevation difference", range.show(u))
                    .with("limit", limit.show(u))
                    .gives(format!("{} of pressure", Pressure::of_height(*range).show(u))),
            )
        }
        Check::ArcsUnmatched { group, arcs, ratio, .. } => {
            let each: Vec<String> =
                arcs.iter().map(|(arc, flow)| format!("{arc}° {}", flow.show(u))).collect();
            // The arcs at both ends tell it; those between are in the arithmetic.
            let ends: Vec<&str> = match each.as_slice() {
                [first, .., last] => vec![first, last],
                few => few.iter().map(String::as_str).collect(),
            };
            said(
                "Arcs not matched",
                format!(
                    "{group}: flow does not follow the arc ({}), so small arcs get {ratio:.1} times the \
                        precipitation rate. Use a matched nozzle for each arc.",
                    ends.join(", ")
                ),
                Working::new(
                    "flow in proportion to the arc: 90° : 180° : 360° = 1 : 2 : 4",
                    "practice: above 1.15 watch, above 1.5 fix",
                )
                .with("arc and flow per head", each.join(", "))
                .gives(format!("{ratio:.2}")),
            )
        }
        Check::AreaNotCovered { group, covered, area } => said(
            "Listed heads do not cover their area",
            format!(
                "{group}: at the listed spacing the heads cover {}; the drawn area is {}. Add heads or \
                    check the spacing.",
                covered.show(u),
                area.show(u)
            ),
            Working::new("Σ spacing × row spacing × arc / 360 ≥ area", "practice: head-to-head spacing")
                .with("covered", covered.show(u))
                .with("drawn", area.show(u))
                .gives(percent(*covered / *area)),
        ),
        Check::ArcNotMade { group, heads, arc, made: (from, to) } => said(
            "Arc not available",
            format!(
                "{group}: {} {} set to {arc}°. This nozzle adjusts from {from}° to {to}°, or full circle.",
                counted(*heads, "head"),
                one(*heads, "is", "are")
            ),
            Working::new("arc that the nozzle can be set to", "typical for this type")
                .with("set", format!("{arc}°"))
                .gives("not available"),
        ),
        Check::NotHeadToHead { heads, of, gap, throw, along } => {
            let (which, next) = match along {
                Direction::Row => ("along the row", "the next head in the row"),
                Direction::Rows => ("between rows", "the next row"),
                Direction::Nearest => ("to the nearest head", "the nearest head"),
            };
            said(
                "Not head to head",
                format!(
                    "{heads} of {} {} not reach {next}: widest spacing {}, radius at the actual pressure \
                        {}. Close the spacing, raise the pressure or use a larger nozzle.",
                    counted(*of, "head"),
                    one(*heads, "does", "do"),
                    gap.show(u),
                    throw.show(u)
                ),
                Working::new(
                    "spacing ≤ radius, in the row and between rows",
                    "practice: every head reaches its neighbors",
                )
                .with(format!("gap {which}"), gap.show(u))
                .with("throw", throw.show(u))
                .gives(format!("{} of the radius", percent(*gap / *throw))),
            )
        }
        _ => return None,
    })
}
