//! Figures of what is on the board, each with how it came about.

use fenlo_core::plan::Plan;
use fenlo_core::site::{ObjectKind, Outline, SiteObject};
use fenlo_core::units::{Length, Surface};
use fenlo_words::Working;

/// Things that a total names one by one.
const MOST_NAMED: usize = 12;

pub struct Figure {
    pub label: &'static str,
    pub value: String,
    pub working: Option<Working>,
}

/// Ground of all areas, or of all that is kept dry, with the largest named.
pub fn total(plan: &Plan, watered: bool) -> Figure {
    let u = plan.units;
    let mut parts: Vec<(&str, f64)> = plan
        .site
        .objects
        .iter()
        .filter(|t| matches!(t.what, ObjectKind::Area(_)) == watered)
        .filter_map(|t| Some((t.title(), t.shape()?.area_m2())))
        .collect();
    let sum = Surface::from_m2(parts.iter().map(|p| p.1).sum()).show(u);
    parts.sort_by(|a, b| b.1.total_cmp(&a.1));
    let rest = parts.split_off(parts.len().min(MOST_NAMED));
    let mut working = parts.iter().fold(
        Working::new("sum of drawn areas", "each by its own outline; overlaps are counted twice"),
        |w, (name, m2)| w.with(*name, Surface::from_m2(*m2).show(u)),
    );
    if !rest.is_empty() {
        working = working
            .with(format!("{} more", rest.len()), Surface::from_m2(rest.iter().map(|p| p.1).sum()).show(u));
    }
    Figure {
        label: if watered { "Irrigated area" } else { "No-spray area" },
        value: sum.clone(),
        working: Some(working.gives(sum)),
    }
}

pub fn figures(plan: &Plan, t: &SiteObject) -> Vec<Figure> {
    let u = plan.units;
    let mut figures = Vec::new();
    if let Some(shape) = t.shape() {
        let holes: f64 = shape.holes.iter().map(|h| h.signed_area().abs()).sum();
        let arcs = shape.rings().flat_map(Outline::edges).filter(|e| e.bulge != 0.0).count();
        let working = Working::new(
            "½·|Σ (xᵢ·yᵢ₊₁ − xᵢ₊₁·yᵢ)| over the corners, with r²/2·(θ − sin θ) for every arc; less holes",
            "shoelace formula plus circle segments",
        )
        .with("corners", shape.rings().map(|r| r.0.len()).sum::<usize>().to_string())
        .with("arcs", arcs.to_string())
        .with("holes", Surface::from_m2(holes).show(u))
        .gives(Surface::from_m2(shape.area_m2()).show(u));
        figures.push(Figure {
            label: "Area",
            value: Surface::from_m2(shape.area_m2()).show(u),
            working: Some(working),
        });
        let round = Length::from_m(shape.perimeter()).show_tape(u);
        let working =
            Working::new("sum of edge lengths, r·θ for arcs, including holes", "as taped around the edge")
                .gives(round.clone());
        figures.push(Figure { label: "Perimeter", value: round, working: Some(working) });
    }
    if let Some(line) = t.line() {
        let value = Length::from_m(line.length()).show_tape(u);
        let edges = line.edges().take(MOST_NAMED).enumerate();
        let working = edges.fold(
            Working::new("sum of section lengths, r·θ for arcs", "tape along the line"),
            |w, (i, e)| w.with(format!("piece {}", i + 1), Length::from_m(e.length()).show_tape(u)),
        );
        figures.push(Figure { label: "Length", working: Some(working.gives(value.clone())), value });
    }
    let spots = plan.site.heights();
    if let (Some((low, high)), false) = (t.bounds(), spots.is_empty()) {
        let at = low.middle(high);
        let height = plan.ground(at).show(u);
        let working = Working::new("Σ wᵢ·hᵢ / Σ wᵢ with wᵢ = 1/dᵢ² over the spot elevations", "Shepard 1968")
            .with("spot elevations", spots.len().to_string())
            .with(
                "nearest",
                Length::from_m(spots.iter().map(|s| s.0.distance(at)).fold(f64::MAX, f64::min)).show_tape(u),
            )
            .gives(height.clone());
        figures.push(Figure { label: "Elevation", value: height, working: Some(working) });
    }
    let heads = plan
        .groups
        .iter()
        .filter(|g| g.area.as_deref() == Some(&t.id) && g.drip.is_none())
        .map(|g| g.drawn.len())
        .sum::<usize>();
    if matches!(t.what, ObjectKind::Area(_)) {
        figures.push(Figure { label: "Heads", value: heads.to_string(), working: None });
    }
    figures
}
