use crate::colour;
use crate::svg::{Anchor, Svg, Type, nice_step, tick};
use fenlo_core::catalogue::PressureBand;
use fenlo_core::chain::PartName;
use fenlo_core::units::{Pressure, UnitSystem};
use fenlo_core::zone::{WalkPart, WalkStep};
use fenlo_words::{walk_note, walk_part};

/// What the pressure walk shows.
#[derive(Debug, Clone, Copy)]
pub struct WalkDrawing<'a> {
    /// From the street to the worst head.
    pub steps: &'a [WalkStep],
    /// The same with a remedy in place.
    pub with_remedy: Option<&'a [WalkStep]>,
    /// What the nozzle can use.
    pub band: PressureBand,
    /// Kind of head, for the words on the band.
    pub kind: &'a str,
    /// Units shown.
    pub units: UnitSystem,
}

const LEFT: f64 = 40.0;
const RIGHT: f64 = 122.0;
const TOP: f64 = 22.0;
const BOTTOM: f64 = 58.0;
const HEIGHT: f64 = 400.0;
/// Characters that a row of a label may have beside the next.
const WIDEST: usize = 10;

/// A stair from the street down to the worst head, over the band that its nozzle can use.
pub fn pressure_walk(walk: WalkDrawing<'_>) -> String {
    let units = walk.units;
    let number = |p: Pressure| p.value(units);
    let PressureBand { best: nominal, least, most } = walk.band;
    let end = walk.steps.last().map_or(Pressure::ZERO, |s| s.left);
    let all = walk.steps.iter().chain(walk.with_remedy.unwrap_or_default());
    let (low, high) =
        all.fold((0.0f64, number(most)), |(a, b), s| (a.min(number(s.left)), b.max(number(s.left))));
    let step = nice_step(high - low, 7.0);
    let (floor, ceiling) = ((low / step).floor() * step, (high / step + 0.3).ceil() * step);
    let labels: Vec<Vec<String>> = walk.steps.iter().map(|s| rows(&walk_part(&s.part))).collect();
    let deepest = labels.iter().map(Vec::len).fold(2, usize::max);
    let height = HEIGHT + 15.0 * (deepest - 2) as f64;
    let width = (LEFT + RIGHT + 62.0 * walk.steps.len() as f64).max(700.0);
    let plot = (width - LEFT - RIGHT, HEIGHT - TOP - BOTTOM);
    let y = |p: Pressure| TOP + (ceiling - number(p)) / (ceiling - floor) * plot.1;
    let title = format!(
        "Pressure profile: {} static, {} at the weakest head, rated {}",
        walk.steps.first().map_or(String::new(), |s| s.left.show(units)),
        end.show(units),
        nominal.show_round(units)
    );
    let mut svg = Svg::new(width, height, "walk", &title);
    let small = Type { size: 12.0, bold: false, fill: colour::SOFT };

    let mut mark = floor;
    while mark <= ceiling + step * 0.01 {
        let at = TOP + (ceiling - mark) / (ceiling - floor) * plot.1;
        svg.line((LEFT, at), (width - RIGHT + 20.0, at), colour::LINE, 1.0, false);
        svg.text((LEFT - 8.0, at + 4.0), Anchor::End, small, &tick(mark, step));
        mark += step;
    }
    svg.text((LEFT - 8.0, 12.0), Anchor::End, small, Pressure::unit(units));

    let column = plot.0 / walk.steps.len().max(1) as f64;
    let stair = |steps: &[WalkStep]| -> Vec<(f64, f64)> {
        let column = plot.0 / steps.len().max(1) as f64;
        steps
            .iter()
            .enumerate()
            .flat_map(|(i, s)| {
                let x = LEFT + column * i as f64;
                [(x, y(s.left)), (x + column, y(s.left))]
            })
            .collect()
    };
    // The band lies where the walk ends: its last third.
    let band_from = LEFT + plot.0 * 0.66;
    let line = stair(walk.steps);
    let mut area = line.clone();
    area.push((LEFT + plot.0, y(Pressure::from_kpa(0.0)).min(TOP + plot.1)));
    area.push((LEFT, y(Pressure::from_kpa(0.0)).min(TOP + plot.1)));
    svg.path(&area, "none", 0.0, colour::WATER_THIN, false);
    svg.raw(r#"<g opacity="0.75">"#);
    svg.rect(band_from, y(most), width - RIGHT + 20.0 - band_from, y(least) - y(most), colour::OK_THIN);
    svg.raw("</g>");
    svg.line((band_from, y(nominal)), (width - RIGHT + 20.0, y(nominal)), colour::OK, 1.5, true);
    let says = format!(
        "{}: range {} to {}, rated {}",
        walk.kind.to_lowercase(),
        least.show_round(units).trim_end_matches(Pressure::unit(units)).trim(),
        most.show_round(units),
        nominal.show_round(units)
    );
    svg.text(
        (width - RIGHT + 18.0, if end < nominal { y(most) - 6.0 } else { y(least) + 15.0 }),
        Anchor::End,
        Type { size: 12.0, bold: true, fill: colour::OK },
        &says,
    );

    if let Some(after) = walk.with_remedy {
        svg.path(&stair(after), colour::EARTH, 2.5, "none", true);
    }
    svg.path(&line, colour::WATER, 4.0, "none", false);
    for (i, s) in walk.steps.iter().enumerate() {
        let middle = LEFT + column * (i as f64 + 0.5);
        // A second line runs mostly above or far below the first: figures go under the first then.
        let figure = y(s.left) + if walk.with_remedy.is_some() { 17.0 } else { -8.0 };
        let says = if i == 0 {
            s.left.number(units)
        } else if s.cost.kpa() < 0.0 {
            format!("+{}", (-s.cost).number(units))
        } else {
            let cost = s.cost.number(units);
            // What rounds to nothing has no sign.
            if cost.chars().all(|c| matches!(c, '0' | '.')) { cost } else { format!("−{cost}") }
        };
        svg.text((middle, figure), Anchor::Middle, Type { size: 13.0, bold: true, fill: colour::INK }, &says);
        let note = walk_note(s.note, units);
        if is_regulator(&s.part) {
            // A gate across the stair: what is above it does not pass.
            let x = LEFT + column * i as f64;
            svg.line((x, y(s.left) - 16.0), (x, y(s.left) + 16.0), colour::INK, 5.0, false);
        }
        for (row, words) in labels[i].iter().enumerate() {
            svg.text(
                (middle, TOP + plot.1 + 18.0 + 15.0 * row as f64),
                Anchor::Middle,
                Type { size: 12.5, bold: false, fill: colour::INK },
                words,
            );
        }
        if !note.is_empty() && note.len() < 12 {
            svg.text(
                (middle, TOP + plot.1 + 19.0 + 15.0 * deepest as f64),
                Anchor::Middle,
                Type { size: 11.0, bold: false, fill: colour::SOFT },
                &note,
            );
        }
    }
    let tip = LEFT + plot.0;
    let good = end >= least && end <= most;
    let ink = if good { colour::OK } else { colour::STOP };
    svg.circle((tip, y(end)), 6.0, ink, ink);
    let remedy_end = walk.with_remedy.and_then(|w| w.last()).map(|s| s.left);
    // Two labels at one height would cover each other.
    let push = match remedy_end {
        Some(r) if (y(r) - y(end)).abs() < 20.0 => {
            if y(r) <= y(end) {
                12.0
            } else {
                -8.0
            }
        }
        _ => 0.0,
    };
    svg.text(
        (tip + 12.0, y(end) + 6.0 + push),
        Anchor::Start,
        Type { size: 18.0, bold: true, fill: ink },
        &end.show(units),
    );
    if let Some(r) = remedy_end {
        svg.circle((tip, y(r)), 6.0, colour::WHITE, colour::EARTH);
        svg.text(
            (tip + 12.0, y(r) + 5.0 - push),
            Anchor::Start,
            Type { size: 15.0, bold: true, fill: colour::EARTH },
            &format!("{} then", r.show(units)),
        );
    }
    svg.finish()
}

/// Regulators are drawn as gates.
fn is_regulator(part: &WalkPart) -> bool {
    matches!(part, WalkPart::Regulator | WalkPart::BodyRegulator | WalkPart::Chain(PartName::SystemRegulator))
}

/// A label on two rows, broken at the blank nearest to its middle; on more where those would run into the next label.
fn rows(label: &str) -> Vec<String> {
    if label.chars().count() <= 9 {
        return vec![label.to_owned()];
    }
    let middle = label.len() / 2;
    let two = match label.match_indices(' ').min_by_key(|(i, _)| i.abs_diff(middle)) {
        Some((i, _)) => vec![label[..i].to_owned(), label[i + 1..].to_owned()],
        None => vec![label.to_owned()],
    };
    if two.iter().all(|row| row.chars().count() <= WIDEST) {
        return two;
    }
    let mut rows: Vec<String> = Vec::new();
    for word in label.split(' ') {
        match rows.last_mut() {
            Some(row) if row.chars().count() + 1 + word.chars().count() <= WIDEST => {
                row.push(' ');
                row.push_str(word);
            }
            _ => rows.push(word.to_owned()),
        }
    }
    rows
}
