//! What the list costs: the part of the page that rests on the company's price book.

use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use askama::Template;
use fenlo_core::pricing::{
    Basket, Goods, Kit, PriceBook, baskets, kit_offers, part_key, piece_for_people, to_order,
};
use fenlo_core::takeoff::{Takeoff, takeoff_priced};
use fenlo_words::{kit_offer, part_name, quantity};
use std::collections::HashMap;

/// Lengths that pipe may be bought in, as price books name them.
const LENGTHS: [&str; 8] = ["20ft", "100ft", "250ft", "500ft", "1000ft", "25m", "50m", "100m"];

/// What the book knows of everything that a job might buy.
pub async fn book_of(app: &App, known: &Assessed) -> Result<PriceBook, AppError> {
    let mut parts: Vec<String> = Vec::new();
    for line in &known.taken().lines {
        match line.piece {
            Some(_) => parts.extend(LENGTHS.map(|l| format!("{}@{l}", line.part))),
            None => parts.push(line.part.clone()),
        }
    }
    // A kit may be sold under a number that is no part's.
    parts.extend(app.store.kits().await?.into_iter().map(|k| k.number));
    parts.sort();
    parts.dedup();
    Ok(app.store.prices_of(&parts).await?)
}

/// The list, coils chosen by the book's prices.
pub fn priced(known: &Assessed, book: &PriceBook) -> Takeoff {
    if book.prices.is_empty() {
        return known.taken().clone();
    }
    takeoff_priced(known.job(), &known.assessment, Some(&|part, piece| book.least(part, piece)))
}

#[derive(Template)]
#[template(path = "parts/baskets.html")]
struct Baskets {
    job: i64,
    currency: String,
    wrong_currency: String,
    alone: Vec<Alone>,
    best: Vec<Bag>,
    total: String,
    bound: String,
    gap: bool,
    unpriced: Vec<Unpriced>,
    kits: Vec<String>,
    any: bool,
}

struct Alone {
    supplier: String,
    total: String,
    lacks: usize,
    lacking: Vec<String>,
}

struct Bag {
    supplier: String,
    goods: String,
    carriage: String,
    lines: Vec<(String, String, String)>,
}

struct Unpriced {
    part: String,
    text: String,
    number: String,
}

pub fn baskets_html(
    known: &Assessed,
    book: &PriceBook,
    goods: &HashMap<String, Goods>,
    kits: &[Kit],
) -> Result<String, AppError> {
    let mut found = priced(known, book);
    found.lines = to_order(&found.lines, goods);
    let ways = baskets(book, &found.lines);
    let key = |i: usize| part_key(&found.lines[i].part, found.lines[i].piece);
    let text = |i: usize| {
        let line = &found.lines[i];
        match line.piece {
            Some(piece) => format!("{}, {}", part_name(line, known.job()), piece_for_people(piece)),
            None => part_name(line, known.job()),
        }
    };
    let house = &known.job().rules.buying.currency;
    let currency = if book.currency.is_empty() { house } else { &book.currency };
    let money = |sum| fenlo_words::money(sum, currency);
    let alone = |(name, basket): &(String, Basket)| Alone {
        supplier: name.clone(),
        total: money(basket.total),
        lacks: basket.lacks.len(),
        lacking: basket.lacks.iter().take(40).map(|i| text(*i)).collect(),
    };
    let other = !book.currency.is_empty() && book.currency != *house;
    Ok(Baskets {
        job: known.open.id,
        currency: currency.clone(),
        wrong_currency: if other { house.clone() } else { String::new() },
        any: !book.prices.is_empty(),
        alone: ways.alone.iter().filter(|a| !a.1.bags.is_empty()).map(alone).collect(),
        best: ways
            .best
            .bags
            .iter()
            .map(|b| Bag {
                supplier: b.supplier.clone(),
                goods: money(b.goods),
                carriage: if b.carriage.is_zero() {
                    "free freight".into()
                } else {
                    format!("freight {}", money(b.carriage))
                },
                lines: b
                    .lines
                    .iter()
                    .map(|(i, bought, sum)| {
                        let n = f64::try_from(*bought).unwrap_or(0.0);
                        (quantity(n), text(*i), money(*sum))
                    })
                    .collect(),
            })
            .collect(),
        kits: kit_offers(book, kits, &found.lines)
            .iter()
            .map(|o| kit_offer(&kits[o.kit], o, currency))
            .collect(),
        total: money(ways.best.total),
        gap: ways.best.total > ways.bound,
        bound: money(ways.bound),
        unpriced: ways
            .unpriced
            .iter()
            .map(|i| Unpriced {
                part: key(*i),
                text: text(*i),
                number: book.numbers.get(&key(*i)).cloned().unwrap_or_default(),
            })
            .collect(),
    }
    .render()?)
}
