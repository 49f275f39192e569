//! Lines of parts as they are typed.

use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use fenlo_core::plan::{Edit, PartLine};

pub const OWN_FIELDS: [&str; 3] = ["text", "quantity", "unit"];

/// Another quantity of a counted part; an empty field takes what was said back.
pub fn quantity(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let part = f.text("part");
    let was = known.job().parts.of(&part).cloned();
    if f.get("quantity").is_empty() {
        return match was {
            Some(line) => Ok(Edit::remove::<PartLine>(line.id)),
            None => f.stop("enter the quantity to buy"),
        };
    }
    if !known.taken().lines.iter().any(|l| l.part == part) {
        return f.stop("the plan no longer counts this part");
    }
    let quantity = f.number("quantity");
    Ok(Edit::put(PartLine {
        id: was.map_or_else(|| fresh(known), |l| l.id),
        part: Some(part),
        text: f.text("note"),
        quantity,
        unit: String::new(),
    }))
}

/// A line of its own, new or taken away.
pub fn own(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    if let Some(id) = f.text_if_any("remove") {
        return Ok(Edit::remove::<PartLine>(id));
    }
    let quantity = f.number("quantity");
    let text = f.text("text");
    if text.is_empty() {
        f.fault("text", "enter a description");
    }
    Ok(Edit::put(PartLine { id: fresh(known), part: None, text, quantity, unit: f.text("unit") }))
}

fn fresh(known: &Assessed) -> String {
    let taken = |id: &str| known.job().parts.lines.iter().any(|l| l.id == id);
    (1..).map(|n| format!("l{n}")).find(|id| !taken(id)).unwrap_or_default()
}
