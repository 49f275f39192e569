//! One kind of head for the whole site: what it comes to where it can be laid.

use super::money::{Money, gallons, said, sum};
use crate::choices::word;
use fenlo_core::catalogue::Kind;
use fenlo_core::job::Job;
use fenlo_core::layout::{Alternative, LAID_OUT};
use fenlo_core::pricing::{FirstCost, Offered, savings};
use fenlo_core::units::{Flow, Volume};

/// A row of the table.
pub struct Total {
    pub label: String,
    pub kind: String,
    pub heads: usize,
    pub flow: String,
    pub year: String,
    pub first: String,
    pub years: String,
    /// What it saves; empty: nothing to hold it against.
    pub saves: String,
    /// The kind that all are held against.
    pub against: String,
    pub areas: usize,
    pub of: usize,
}

/// Kinds that can be laid somewhere; none on a site of one area.
pub fn totals(plan: &Job, all: &[Alternative], money: Option<&Money>) -> Vec<Total> {
    let mut areas: Vec<&str> = all.iter().map(|a| a.area.as_str()).collect();
    areas.dedup();
    if areas.len() < 2 {
        return Vec::new();
    }
    let laid = |kind: Kind| all.iter().any(|a| a.kind == kind && a.heads.is_ok());
    let found: Vec<Kind> = LAID_OUT.into_iter().filter(|kind| laid(*kind)).collect();
    let mut rows: Vec<Total> = found.iter().map(|kind| total(plan, all, money, *kind, areas.len())).collect();
    // Held against the kind that waters most of the site, of equals the first; each on the ground of both.
    let most = (0..rows.len()).max_by_key(|i| (rows[*i].areas, std::cmp::Reverse(*i)));
    let Some(base) = most.map(|i| found[i]) else {
        return rows;
    };
    for (row, kind) in rows.iter_mut().zip(&found) {
        row.against = fenlo_words::kind(base).to_lowercase();
        if *kind != base {
            let both = |way: &Alternative| {
                let has =
                    |kind: Kind| all.iter().any(|a| a.area == way.area && a.kind == kind && a.heads.is_ok());
                has(base) && has(*kind)
            };
            let pair = [base, *kind].map(|kind| offered(plan, all, money, kind, &both));
            row.saves = said(plan, savings(Some(base), &pair)[1].as_ref());
        }
    }
    rows
}

/// A kind on the areas that it is laid on, and that count.
fn offered(
    plan: &Job,
    all: &[Alternative],
    money: Option<&Money>,
    kind: Kind,
    counts: &dyn Fn(&Alternative) -> bool,
) -> Offered {
    let laid = |a: &Alternative| a.kind == kind && a.heads.is_ok() && counts(a);
    let each = || all.iter().enumerate().filter(|(_, a)| laid(a));
    let costs: Option<Vec<FirstCost>> = each().map(|(i, a)| money.and_then(|m| m.of(plan, i, a))).collect();
    let water: Option<Vec<Volume>> = each().map(|(_, a)| a.year).collect();
    Offered {
        kind,
        water: water.map(|all| all.into_iter().sum()),
        cost: costs.map(|costs| costs.into_iter().sum()),
    }
}

fn total(plan: &Job, all: &[Alternative], money: Option<&Money>, kind: Kind, of: usize) -> Total {
    let ways = all.iter().filter(|a| a.kind == kind);
    let ways: Vec<(&Alternative, usize)> =
        ways.filter_map(|a| Some((a, a.heads.as_ref().ok()?.heads.len()))).collect();
    let Offered { water, cost, .. } = offered(plan, all, money, kind, &|_| true);
    let dash = || "–".to_owned();
    Total {
        label: fenlo_words::kind(kind).to_owned(),
        kind: word(&kind),
        heads: ways.iter().map(|(_, heads)| heads).sum(),
        flow: ways.iter().filter_map(|(a, _)| a.flow).sum::<Flow>().show(plan.units),
        year: water.map_or_else(dash, |y| gallons(y, plan.units)),
        first: cost.as_ref().map_or_else(dash, |cost| {
            // What has no price is not in it: then it is the least.
            let least = if cost.unpriced.is_empty() { "" } else { "from " };
            format!("{least}{}", sum(plan, cost.first()))
        }),
        years: cost.as_ref().and_then(FirstCost::over_years).map_or_else(dash, |y| sum(plan, y)),
        saves: String::new(),
        against: String::new(),
        areas: ways.len(),
        of,
    }
}
