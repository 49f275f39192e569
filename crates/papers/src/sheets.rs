//! Plan sheets: the largest usual scale at which the ground fits, tiled where it would be too small to read.

use crate::Paper;
use crate::blocks::{Block, LegendRow, Sheet};
use crate::lang::{Lang, Phrases};
use fenlo_core::job::Job;
#[cfg(test)]
use fenlo_drawing::Legend;
use fenlo_drawing::board::frame;
use fenlo_drawing::{legend_sign, plan_sheet};

/// Usual scales: for feet an inch is so many feet, for metres round figures.
const FEET: [(f64, &str); 7] = [
    (96.0, "1 in = 8 ft"),
    (120.0, "1 in = 10 ft"),
    (192.0, "1 in = 16 ft"),
    (240.0, "1 in = 20 ft"),
    (360.0, "1 in = 30 ft"),
    (480.0, "1 in = 40 ft"),
    (720.0, "1 in = 60 ft"),
];
const METRES: [(f64, &str); 6] = [
    (50.0, "1:50"),
    (100.0, "1:100"),
    (200.0, "1:200"),
    (250.0, "1:250"),
    (500.0, "1:500"),
    (1000.0, "1:1000"),
];
/// Smaller than this is not read beside a valve box: the plan is parted over several sheets instead.
const SMALLEST: f64 = 250.0;
/// Margin round a sheet, and its title strip, mm.
const MARGIN: f64 = 8.0;
const STRIP: f64 = 26.0;
/// Sheets overlap by so much, mm.
const LAP: f64 = 12.0;
/// Sheets of one plan at most.
const MOST: usize = 24;

/// Sheets of a job, and their drawings by name.
pub(crate) fn sheets(job: &Job, lang: Lang, paper: Paper) -> (Vec<Block>, Vec<(String, String)>) {
    let (l, b, r, t) = frame(job);
    let (ground_w, ground_h) = (r - l, t - b);
    // On its side where the ground is wide.
    let (short, long) = paper.size();
    let (width, height) = if ground_w > ground_h { (long, short) } else { (short, long) };
    let room = (width - 2.0 * MARGIN - 4.0, height - 2.0 * MARGIN - STRIP - 4.0);
    let metric = job.units.is_metric();
    let scales: Vec<(f64, &str)> = if metric { METRES.to_vec() } else { FEET.to_vec() };
    let fits = |s: f64| ground_w * 1000.0 / s <= room.0 && ground_h * 1000.0 / s <= room.1;
    let last = scales[scales.len() - 1];
    let whole = scales.iter().copied().find(|s| fits(s.0)).unwrap_or(last);
    let tiles = |s: f64| {
        let count = |ground: f64, room: f64| {
            let paper = ground * 1000.0 / s;
            if paper <= room { 1 } else { ((paper - room) / (room - LAP)).ceil() as usize + 1 }
        };
        (count(ground_w, room.0), count(ground_h, room.1))
    };
    let mut chosen = whole;
    if whole.0 > SMALLEST {
        // The smallest that can still be read, parted.
        let readable = scales.iter().rev().copied().find(|s| s.0 <= SMALLEST);
        if let Some(s) = readable.filter(|s| tiles(s.0).0 * tiles(s.0).1 <= MOST) {
            chosen = s;
        }
    }
    let (scale, said) = chosen;
    let mm = 1000.0 / scale;
    let (nx, ny) = tiles(scale);
    let mut blocks = Vec::new();
    let mut images = Vec::new();
    let mut used = std::collections::BTreeSet::new();
    let total = nx * ny;
    for row in 0..ny {
        for column in 0..nx {
            let step = |n: usize, room: f64| n as f64 * (room - LAP) / mm;
            let left = l + step(column, room.0);
            let top = t - step(row, room.1);
            let (w, h) = ((room.0 / mm).min(r - left), (room.1 / mm).min(top - b));
            let drawn = plan_sheet(job, (left, top - h, left + w, top), scale, lang.joint_letters());
            let name = format!("plan-{row}-{column}.svg");
            used.extend(drawn.legend.iter().copied());
            let legend: Vec<LegendRow> = drawn
                .legend
                .iter()
                .take(12)
                .map(|entry| LegendRow {
                    image: format!("legend-{entry:?}.svg"),
                    text: lang.legend(*entry).to_owned(),
                })
                .collect();
            // A field of the bar: 10 ft or 5 m, more where that is under 12 mm.
            let (field, word) = bar(mm, metric);
            let number = row * nx + column + 1;
            let (dw, dh) = (w * mm, h * mm);
            blocks.push(Block::Sheet(Box::new(Sheet {
                width,
                height,
                image: name.clone(),
                alt: format!("{} {number}/{total}", lang.say("Plan")),
                x: 2.0 + (room.0 - dw).max(0.0) / 2.0,
                y: 2.0 + (room.1 - dh).max(0.0) / 2.0,
                draw_width: dw,
                draw_height: dh,
                name: job.name.clone(),
                place: job.location.clone(),
                sheet_word: format!("{} {number} / {total}", lang.say("Sheet")),
                scale_word: format!("{said} (1:{scale:.0})"),
                bar: field,
                bar_word: word.0,
                bar_word2: word.1,
                north: job.site.north,
                north_word: lang.say("N").to_owned(),
                legend,
            })));
            images.push((name, drawn.svg));
        }
    }
    for entry in used {
        images.push((format!("legend-{entry:?}.svg"), legend_sign(entry, lang.joint_letters())));
    }
    (blocks, images)
}

/// A field of the scale bar on paper, mm, and what one and two of them are.
fn bar(mm: f64, metric: bool) -> (f64, (String, String)) {
    let (unit, steps, word) = if metric {
        (1.0, [1.0, 2.0, 5.0, 10.0, 20.0, 50.0], "m")
    } else {
        (0.3048, [5.0, 10.0, 20.0, 40.0, 100.0, 200.0], "ft")
    };
    let step = steps.into_iter().find(|s| s * unit * mm >= 12.0).unwrap_or(steps[5]);
    let say = |n: f64| format!("{:.0} {word}", n * step);
    (step * unit * mm, (say(1.0), say(2.0)))
}

/// All entries, for tests of their words.
#[cfg(test)]
pub(crate) const ENTRIES: [Legend; 11] = [
    Legend::Main,
    Legend::Lateral,
    Legend::Sleeve,
    Legend::Head,
    Legend::Drip,
    Legend::Box,
    Legend::Controller,
    Legend::Water,
    Legend::Joint,
    Legend::Plant,
    Legend::NoDig,
];
