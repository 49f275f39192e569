//! The list of parts and the quote, as text and as JSON.

use fenlo_core::job::Job;
use fenlo_core::pricing::{PriceBook, Quote, baskets, part_key};
use fenlo_core::takeoff::{LineKind, Takeoff};
use fenlo_words as words;
use serde_json::{Value, json};
use std::fmt::Write;

pub fn parts_json(job: &Job, found: &Takeoff, book: Option<&PriceBook>) -> String {
    let lines: Vec<Value> = found
        .lines
        .iter()
        .map(|l| {
            json!({
                "kind": l.kind,
                "part": l.part,
                "text": words::part_name(l, job),
                "quantity": l.quantity,
                "unit": l.unit.word(),
                "piece_m": l.piece.map(|p| p.m()),
                "used": l.used,
                "from": l.from,
                "by_hand": l.is_by_hand(),
            })
        })
        .collect();
    let cuts: Vec<Value> = found
        .cuts
        .iter()
        .map(|c| {
            json!({
                "pipe": c.pipe.to_string(),
                "bars": c.bars.iter().map(|b| json!({
                    "length_m": b.length.m(),
                    "pieces_m": b.pieces.iter().map(|p| c.pieces[*p].length.m()).collect::<Vec<_>>(),
                })).collect::<Vec<_>>(),
                "least_bars": c.bound,
            })
        })
        .collect();
    let trenches: Vec<Value> = found
        .digging
        .rows
        .iter()
        .map(|t| {
            json!({
                "id": t.id, "legs": t.legs, "length_m": t.length.m(), "by_hand_m": t.by_hand.m(),
                "width_m": t.width.m(), "depth_m": t.depth.m(), "hours": t.hours, "spoil_m3": t.spoil_m3,
            })
        })
        .collect();
    let rows = found.rows.iter().map(|r| {
        json!({
            "group": r.group, "length_m": r.length.m(), "first_emitter_m": r.first.m(),
            "emitters": r.emitters, "count": r.count,
        })
    });
    let micro = found.micro.iter();
    let micro = micro.map(|m| json!({"group": m.group, "length_m": m.length.m(), "count": m.count}));
    let mut all = json!({
        "lines": lines,
        "cuts": cuts,
        "rows": rows.collect::<Vec<_>>(),
        "micro_tubes": micro.collect::<Vec<_>>(),
        "trenches": trenches,
        "hours_digging": found.digging.hours,
        "not_counted": found.missing.iter().map(|m| words::not_counted(m, job)).collect::<Vec<_>>(),
        "not_made": found.unmade.iter().map(|u| json!({"at": u.at, "wanted": u.wanted})).collect::<Vec<_>>(),
    });
    if let Some(book) = book {
        all["baskets"] = basket_json(found, book);
    }
    super::pretty(&all)
}

fn basket_json(found: &Takeoff, book: &PriceBook) -> Value {
    let ways = baskets(book, &found.lines);
    let key = |i: &usize| part_key(&found.lines[*i].part, found.lines[*i].piece);
    json!({
        "currency": book.currency,
        "alone": ways.alone.iter().map(|(name, b)| json!({
            "supplier": name,
            "total": b.total,
            "lacks": b.lacks.iter().map(key).collect::<Vec<_>>(),
        })).collect::<Vec<_>>(),
        "best": {
            "total": ways.best.total,
            "least": ways.bound,
            "bags": ways.best.bags.iter().map(|b| json!({
                "supplier": b.supplier,
                "goods": b.goods,
                "carriage": b.carriage,
                "lines": b.lines.iter().map(|l| json!({
                    "part": key(&l.0), "quantity": l.1, "sum": l.2,
                })).collect::<Vec<_>>(),
            })).collect::<Vec<_>>(),
        },
        "no_price": ways.unpriced.iter().map(key).collect::<Vec<_>>(),
    })
}

pub fn parts_text(job: &Job, found: &Takeoff, book: Option<&PriceBook>) -> String {
    let mut out = String::new();
    for kind in LineKind::ALL {
        let mut any = false;
        for l in found.section(kind) {
            if !std::mem::replace(&mut any, true) {
                line!(out, "{}", words::section(kind));
            }
            let by_hand = if l.is_by_hand() { "  (by hand)" } else { "" };
            line!(out, "  {:>22}  {}{by_hand}", words::bought(l, job.units), words::part_name(l, job));
        }
    }
    if found.lines.is_empty() {
        line!(out, "No parts yet: no heads, no valves.");
    }
    let dig = &found.digging;
    if !dig.rows.is_empty() {
        line!(out);
        line!(
            out,
            "Trench: {} in {}, {} hand-dug; {:.1} h; {}",
            dig.length().show_whole(job.units),
            words::counted(dig.rows.len(), "section"),
            dig.by_hand().show_whole(job.units),
            dig.hours,
            words::counted(dig.crossings.len(), "pavement crossing")
        );
    }
    for missing in &found.missing {
        line!(out, "! {}", words::not_counted(missing, job));
    }
    for unmade in &found.unmade {
        let at = words::place(&unmade.at, job);
        line!(out, "! {}: no {} in the catalog", words::capital(&at), unmade.wanted);
    }
    if let Some(book) = book {
        let ways = baskets(book, &found.lines);
        line!(out);
        for (name, basket) in &ways.alone {
            let lacks = match basket.lacks.len() {
                0 => "has all parts".to_owned(),
                n => format!("missing {}", words::counted(n, "line")),
            };
            line!(out, "{name}: {} ({lacks})", words::money(basket.total, &book.currency));
        }
        line!(
            out,
            "Lowest cost: {} from {} (no split can cost less than {})",
            words::money(ways.best.total, &book.currency),
            ways.best.bags.iter().map(|b| b.supplier.as_str()).collect::<Vec<_>>().join(" and "),
            words::money(ways.bound, &book.currency)
        );
        for place in &ways.unpriced {
            line!(out, "! no price: {}", words::part_name(&found.lines[*place], job));
        }
    }
    out
}

pub fn quote_json(quote: &Quote) -> String {
    super::pretty(&serde_json::to_value(quote).unwrap_or_default())
}

pub fn quote_text(quote: &Quote) -> String {
    let mut out = String::new();
    let c = &quote.currency;
    line!(out, "Quote dated {}, valid until {}", words::day(quote.on), words::day(quote.until));
    for s in &quote.sections {
        line!(out, "  {:<40} {:>14}", words::quote_section(&s.section), words::money(s.price, c));
    }
    line!(out, "  {:<40} {:>14}", "Subtotal", words::money(quote.subtotal, c));
    line!(out, "  {:<40} {:>14}", "Tax", words::money(quote.tax, c));
    line!(out, "  {:<40} {:>14}", "Total", words::money(quote.total, c));
    line!(
        out,
        "  (your cost {}, including freight {})",
        words::money(quote.cost, c),
        words::money(quote.carriage, c)
    );
    for part in &quote.unpriced {
        line!(out, "! no price, not included: {part}");
    }
    out
}
