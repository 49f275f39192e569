//! Where the parts of a job are bought for the least: from one supplier, or from several, with carriage and
//! packs.

use super::book::{PriceBook, Supplier};
use super::cents;
use crate::takeoff::Line;
use rust_decimal::Decimal;
use std::collections::BTreeSet;

/// Suppliers that are tried in every combination; of more the dearest single ones are left out.
const MOST_SUPPLIERS: usize = 12;

/// What is bought of one supplier.
#[derive(Debug, Clone, PartialEq)]
pub struct Bag {
    /// Its name.
    pub supplier: String,
    /// Places of lines, each with what is bought and what that costs.
    pub lines: Vec<(usize, Decimal, Decimal)>,
    /// Goods.
    pub goods: Decimal,
    /// Carriage.
    pub carriage: Decimal,
}

/// All lines that anybody sells, shared out.
#[derive(Debug, Clone, PartialEq)]
pub struct Basket {
    /// By supplier, in the book's order.
    pub bags: Vec<Bag>,
    /// Goods and carriage.
    pub total: Decimal,
    /// Places of lines that it lacks: nobody in it sells them.
    pub lacks: Vec<usize>,
}

/// Every way to buy the same list.
#[derive(Debug, Clone, PartialEq)]
pub struct Baskets {
    /// Each supplier by itself, in the book's order.
    pub alone: Vec<(String, Basket)>,
    /// The cheapest split that has every line anybody sells.
    pub best: Basket,
    /// No split costs less.
    pub bound: Decimal,
    /// Places of lines that nobody sells.
    pub unpriced: Vec<usize>,
}

/// What each supplier wants for each line; none: it does not sell it.
struct Table {
    suppliers: Vec<Supplier>,
    /// By line, by supplier: bought and sum.
    offers: Vec<Vec<Option<(Decimal, Decimal)>>>,
}

/// The ways to buy a list of lines: each supplier alone, and the cheapest split. Lines with nothing to buy
/// are left out. Deterministic.
///
/// # Source
/// Every set of suppliers is tried, each line with its cheapest of the set; then lines move to a supplier
/// that is short of free carriage while that saves (local search). The bound takes each set's cheapest goods
/// with the carriage that no shift of lines could save.
pub fn baskets(book: &PriceBook, lines: &[Line]) -> Baskets {
    let table = Table::of(book, lines);
    let wanted: Vec<usize> = (0..lines.len()).filter(|i| lines[*i].quantity > 0.0).collect();
    let sold = |i: &usize| table.offers[*i].iter().any(Option::is_some);
    let unpriced: Vec<usize> = wanted.iter().copied().filter(|i| !sold(i)).collect();
    let priced: Vec<usize> = wanted.iter().copied().filter(sold).collect();
    let alone: Vec<(String, Basket)> = (0..table.suppliers.len())
        .map(|s| {
            let has: Vec<usize> = priced.iter().copied().filter(|i| table.offers[*i][s].is_some()).collect();
            let mut basket = table.basket(&has, &vec![s; has.len()]);
            basket.lacks = wanted.iter().copied().filter(|i| !has.contains(i)).collect();
            (table.suppliers[s].name.clone(), basket)
        })
        .collect();
    let mut tried: Vec<usize> = (0..table.suppliers.len()).collect();
    tried.sort_by_key(|s| (alone[*s].1.lacks.len(), alone[*s].1.total));
    tried.truncate(MOST_SUPPLIERS);
    tried.sort_unstable();
    let mut best: Option<(Decimal, Vec<usize>)> = None;
    let mut bound: Option<Decimal> = None;
    for set in 1u32..(1 << tried.len()) {
        let open: Vec<usize> = (0..tried.len()).filter(|i| set >> i & 1 == 1).map(|i| tried[i]).collect();
        let Some((chosen, goods)) = table.cheapest(&priced, &open) else {
            continue;
        };
        // Carriage of a supplier that can't reach its free sum even with everything it sells.
        let sure: Decimal = open.iter().map(|s| table.sure_carriage(*s, &priced)).sum();
        let least = goods + sure;
        bound = Some(bound.map_or(least, |b| b.min(least)));
        if best.as_ref().is_some_and(|b| least >= b.0) {
            continue;
        }
        let (total, chosen) = table.shifted(&priced, chosen, &open);
        if best.as_ref().is_none_or(|b| total < b.0) {
            best = Some((total, chosen));
        }
    }
    let best = best.map_or_else(|| table.basket(&[], &[]), |(_, chosen)| table.basket(&priced, &chosen));
    Baskets { bound: bound.unwrap_or_default(), best, alone, unpriced }
}

impl Table {
    fn of(book: &PriceBook, lines: &[Line]) -> Self {
        let mut names: Vec<String> = book.suppliers.iter().map(|s| s.name.clone()).collect();
        let known: BTreeSet<&String> = book.suppliers.iter().map(|s| &s.name).collect();
        let more: BTreeSet<&String> = book.prices.iter().map(|p| &p.supplier).collect();
        names.extend(more.into_iter().filter(|n| !known.contains(n)).cloned());
        let suppliers: Vec<Supplier> = names.iter().map(|n| book.supplier(n)).collect();
        let offers = lines
            .iter()
            .map(|line| {
                let all = book.offers(line);
                let of = |s: &Supplier| {
                    let own = all.iter().filter(|o| o.price.supplier == s.name);
                    own.map(|o| (o.bought, o.sum)).min_by_key(|o| o.1)
                };
                suppliers.iter().map(of).collect()
            })
            .collect();
        Self { suppliers, offers }
    }

    /// Each line from its cheapest of a set; none: a line that none of them sells.
    fn cheapest(&self, lines: &[usize], open: &[usize]) -> Option<(Vec<usize>, Decimal)> {
        let mut goods = Decimal::ZERO;
        let mut chosen = Vec::with_capacity(lines.len());
        for &line in lines {
            let sold = open.iter().filter_map(|s| Some((self.offers[line][*s]?.1, *s)));
            let (sum, supplier) = sold.min()?;
            goods += sum;
            chosen.push(supplier);
        }
        Some((chosen, goods))
    }

    fn sure_carriage(&self, supplier: usize, lines: &[usize]) -> Decimal {
        let terms = &self.suppliers[supplier];
        let most: Decimal = lines.iter().filter_map(|l| Some(self.offers[*l][supplier]?.1)).sum();
        match terms.free_from {
            Some(free) if most >= free => Decimal::ZERO,
            // Nothing may be bought there at all: then it is in no smaller set's way.
            _ if most.is_zero() => Decimal::ZERO,
            _ => terms.carriage,
        }
    }

    fn carriage(&self, supplier: usize, goods: Decimal) -> Decimal {
        let terms = &self.suppliers[supplier];
        if goods.is_zero() || terms.free_from.is_some_and(|free| goods >= free) {
            Decimal::ZERO
        } else {
            terms.carriage
        }
    }

    fn total(&self, lines: &[usize], chosen: &[usize]) -> Decimal {
        let mut goods = vec![Decimal::ZERO; self.suppliers.len()];
        for (line, supplier) in lines.iter().zip(chosen) {
            goods[*supplier] += self.offers[*line][*supplier].map_or(Decimal::ZERO, |o| o.1);
        }
        goods.iter().enumerate().map(|(s, sum)| *sum + self.carriage(s, *sum)).sum()
    }

    /// Moves lines between the suppliers of a set while that makes it cheaper: one by one, and all that it
    /// takes to reach a free sum, the cheapest to move first.
    fn shifted(&self, lines: &[usize], mut chosen: Vec<usize>, open: &[usize]) -> (Decimal, Vec<usize>) {
        let mut total = self.total(lines, &chosen);
        loop {
            let before = total;
            for i in 0..lines.len() {
                for &to in open {
                    if to == chosen[i] || self.offers[lines[i]][to].is_none() {
                        continue;
                    }
                    let was = std::mem::replace(&mut chosen[i], to);
                    let now = self.total(lines, &chosen);
                    if now < total {
                        total = now;
                    } else {
                        chosen[i] = was;
                    }
                }
            }
            for &to in open {
                let Some(free) = self.suppliers[to].free_from else {
                    continue;
                };
                let mut moved = chosen.clone();
                let sum = |at: &[usize]| -> Decimal {
                    let own = lines.iter().zip(at).filter(|(_, s)| **s == to);
                    own.filter_map(|(l, s)| Some(self.offers[*l][*s]?.1)).sum()
                };
                let mut dearer: Vec<(Decimal, usize)> = (0..lines.len())
                    .filter(|i| moved[*i] != to)
                    .filter_map(|i| {
                        let here = self.offers[lines[i]][moved[i]]?.1;
                        Some((self.offers[lines[i]][to]?.1 - here, i))
                    })
                    .collect();
                dearer.sort();
                for (_, i) in dearer {
                    if sum(&moved) >= free {
                        break;
                    }
                    moved[i] = to;
                }
                let now = self.total(lines, &moved);
                if now < total {
                    total = now;
                    chosen = moved;
                }
            }
            if total >= before {
                return (total, chosen);
            }
        }
    }

    fn basket(&self, lines: &[usize], chosen: &[usize]) -> Basket {
        let mut bags: Vec<Bag> = Vec::new();
        for supplier in 0..self.suppliers.len() {
            let own: Vec<(usize, Decimal, Decimal)> = lines
                .iter()
                .zip(chosen)
                .filter(|(_, s)| **s == supplier)
                .filter_map(|(l, _)| self.offers[*l][supplier].map(|o| (*l, o.0, o.1)))
                .collect();
            if own.is_empty() {
                continue;
            }
            let goods: Decimal = own.iter().map(|l| l.2).sum();
            bags.push(Bag {
                supplier: self.suppliers[supplier].name.clone(),
                lines: own,
                goods,
                carriage: self.carriage(supplier, goods),
            });
        }
        Basket { total: cents(bags.iter().map(|b| b.goods + b.carriage).sum()), bags, lacks: Vec::new() }
    }
}
