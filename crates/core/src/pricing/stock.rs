//! What of a job's list has come, from suppliers and from the company's own stock, and what is left over.

use super::book::{part_key, quantity_of};
use crate::takeoff::Line;
use rust_decimal::Decimal;
use std::collections::HashMap;

/// What became of one part of a job.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Goods {
    /// Taken from the company's stock.
    pub from_stock: Decimal,
    /// Delivered.
    pub arrived: Decimal,
    /// Left over and put into stock.
    pub to_stock: Decimal,
}

impl Goods {
    /// What the job has of it.
    pub fn here(&self) -> Decimal {
        self.from_stock + self.arrived - self.to_stock
    }
}

/// A line of the list of deliveries.
#[derive(Debug, Clone, PartialEq)]
pub struct Delivery {
    /// Its name in price books and in the stock ([`part_key`]).
    pub part: String,
    /// Place of its line; none: it came for a plan that no longer wants it.
    pub line: Option<usize>,
    /// The plan wants so many.
    pub wanted: Decimal,
    /// What became of it.
    pub goods: Goods,
    /// Still to come.
    pub missing: Decimal,
    /// Of that the stock has so many.
    pub in_stock: Decimal,
    /// Over what the plan wants.
    pub left_over: Decimal,
}

/// Every part that a job wants or has, in the order of its list; what it no longer wants comes last.
///
/// # Example
/// 8 wanted, 3 taken from stock, a pack of 10 has come: none is missing, 5 are left over.
pub fn deliveries(
    lines: &[Line],
    goods: &HashMap<String, Goods>,
    stock: &HashMap<String, Decimal>,
) -> Vec<Delivery> {
    let of = |part: String, line: Option<usize>, wanted: Decimal| {
        let goods = goods.get(&part).copied().unwrap_or_default();
        let missing = (wanted - goods.here()).max(Decimal::ZERO);
        Delivery {
            line,
            wanted,
            goods,
            missing,
            in_stock: stock.get(&part).copied().unwrap_or_default().min(missing),
            left_over: (goods.here() - wanted).max(Decimal::ZERO),
            part,
        }
    };
    let mut found: Vec<Delivery> = Vec::new();
    for (i, line) in lines.iter().enumerate().filter(|(_, l)| l.quantity > 0.0) {
        let part = part_key(&line.part, line.piece);
        // The same part may stand in two sections of a list.
        match found.iter().position(|d| d.part == part) {
            Some(at) => found[at] = of(part, found[at].line, found[at].wanted + quantity_of(line)),
            None => found.push(of(part, Some(i), quantity_of(line))),
        }
    }
    let mut others: Vec<&String> = goods.keys().collect();
    others.retain(|part| found.iter().all(|d| d.part != **part));
    others.sort();
    let others = others.into_iter().map(|part| of(part.clone(), None, Decimal::ZERO));
    found.extend(others.filter(|d| !d.left_over.is_zero()));
    found
}

/// The list without what was taken from stock: what is ordered.
pub fn to_order(lines: &[Line], goods: &HashMap<String, Goods>) -> Vec<Line> {
    let mut taken: HashMap<&String, f64> = HashMap::new();
    for (part, g) in goods {
        taken.insert(part, f64::try_from(g.from_stock).unwrap_or(0.0));
    }
    let less = |line: &Line| {
        let mut line = line.clone();
        if let Some(left) = taken.get_mut(&part_key(&line.part, line.piece)) {
            let less = left.min(line.quantity);
            line.quantity -= less;
            *left -= less;
        }
        line
    };
    lines.iter().map(less).collect()
}
