//! What is typed on the page into edits.

use super::*;

/// A change to one supply that came from one form.
struct Change<'a> {
    app: &'a App,
    job: i64,
    supply: &'a str,
    form: &'a str,
    fields: &'a [&'a str],
    show: Show,
}

impl Change<'_> {
    async fn save(
        self,
        pairs: Pairs,
        change: impl FnOnce(&mut Supply, &mut Fields, &Plan),
    ) -> Result<Response, AppError> {
        let known = self.app.job(self.job).await?;
        let mut supply = known.job().supply(self.supply).ok_or(AppError::NotFound)?.clone();
        let mut f = Fields::new(pairs, known.job().units);
        change(&mut supply, &mut f, known.job());
        if !f.errors.is_empty() {
            return Ok(refuse(self.form, self.fields, &f.errors));
        }
        match self
            .app
            .edit(self.job, base_of(&f, &known), Edit::put(supply))
            .await
        {
            Ok(known) => {
                let mut out = fragments(&known, self.supply, self.show)?;
                if self.show == Show::Figures {
                    out.clear(self.form, self.fields);
                }
                Ok(out.done())
            }
            Err(AppError::Faults(faults)) => {
                Ok(refuse(self.form, self.fields, &at_fields(&faults, self.fields)))
            }
            Err(error) => Err(error),
        }
    }
}

const SOURCE_FIELDS: [&str; 7] = [
    "name",
    "water",
    "gauge_height",
    "curve",
    "cut_in",
    "cut_out",
    "pump_flow",
];

pub async fn save_source(
    State(app): State<App>,
    Path((job, supply)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let was = known
        .job()
        .supply(&supply)
        .map(|s| kind(&s.water))
        .ok_or(AppError::NotFound)?;
    let changes_kind = pairs.iter().any(|p| p.0 == "water" && p.1 != was);
    let show = if changes_kind { Show::Lists } else { Show::Figures };
    Change {
        app: &app,
        job,
        supply: &supply,
        form: "source",
        fields: &SOURCE_FIELDS,
        show,
    }
    .save(pairs, |supply, f, _| {
        supply.name = f.text("name");
        supply.gauge_height = f.length_or_zero("gauge_height");
        supply.water = match f.get("water") {
            "pump" if changes_kind => WaterSource::Pump {
                curve: first_curve(),
                potable: false,
            },
            "pump" => WaterSource::Pump {
                curve: pump_points(f),
                potable: f.ticked("potable"),
            },
            "well" if changes_kind => WaterSource::Well {
                cut_in: Pressure::from_psi(40.0),
                cut_out: Pressure::from_psi(60.0),
                pump_flow: Flow::from_gpm(10.0),
            },
            "well" => WaterSource::Well {
                cut_in: f.pressure("cut_in"),
                cut_out: f.pressure("cut_out"),
                pump_flow: f.flow("pump_flow"),
            },
            _ => WaterSource::Street,
        };
    })
    .await
}

/// A small booster's curve to start from; the installer types the one on the plate.
fn first_curve() -> Vec<PumpPoint> {
    [(0.0, 80.0), (10.0, 74.0), (20.0, 60.0), (30.0, 35.0)]
        .map(|(q, p)| PumpPoint {
            flow: Flow::from_gpm(q),
            pressure: Pressure::from_psi(p),
        })
        .into()
}

fn pump_points(f: &mut Fields) -> Vec<PumpPoint> {
    let text = f.text("curve");
    let mut points = Vec::new();
    for pair in text.split(';').map(str::trim).filter(|p| !p.is_empty()).take(51) {
        let read = pair
            .split_once(':')
            .map(|(q, p)| (q.parse::<Flow>(), p.parse::<Pressure>()));
        match read {
            Some((Ok(flow), Ok(pressure))) => points.push(PumpPoint { flow, pressure }),
            Some((Err(e), _)) | Some((_, Err(e))) => f.fault("curve", e.to_string()),
            None => f.fault(
                "curve",
                format!("‘{pair}’: write flow:pressure, e.g. 20 gpm:60 psi"),
            ),
        }
    }
    points
}

pub async fn add_supply(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let id = known.job().fresh_id('s');
    let supply = Supply::new(&id, &format!("Connection {}", known.job().supplies.len() + 1));
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    let known = app.edit(job, base, Edit::put(supply)).await?;
    render_body(known, Here::at(Screen::Water, Some(id))).await
}

pub async fn remove_supply(
    State(app): State<App>,
    Path((job, supply)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    render_body(
        app.edit(job, base, Edit::remove::<Supply>(supply)).await?,
        Here::at(Screen::Water, None),
    )
    .await
}

pub async fn pin(
    State(app): State<App>,
    Path((job, supply)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, UnitSystem::Us);
    let school: Option<DesignFlowMethod> = if f.get("school") == "none" {
        None
    } else {
        Some(
            serde_json::from_value(f.text("school").into())
                .map_err(|_| AppError::Bad("There is no such school".into()))?,
        )
    };
    let base = base_of(&f, &known);
    f.errors.clear();
    let known = app.edit(job, base, Edit::pin(supply.clone(), school)).await?;
    Ok(fragments(&known, &supply, Show::Figures)?.done())
}

pub async fn read_after(
    State(app): State<App>,
    Path((job, supply)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    Change {
        app: &app,
        job,
        supply: &supply,
        form: "gauge",
        fields: &["read_after"],
        show: Show::Lists,
    }
    .save(pairs, |supply, f, _| {
        supply.read_after = Some(f.text("read_after")).filter(|t| !t.is_empty())
    })
    .await
}

const READING_FIELDS: [&str; 7] = [
    "pressure",
    "flow",
    "volume",
    "time",
    "when",
    "instrument",
    "place",
];

fn reading(f: &mut Fields) -> Reading {
    let kind = match f.get("kind") {
        "dynamic" => ReadingKind::Dynamic {
            flow: f.flow("flow"),
            pressure: f.pressure("pressure"),
        },
        "bucket" => ReadingKind::Bucket {
            volume: f.volume("volume"),
            time: f.minutes("time"),
        },
        _ => ReadingKind::Static {
            pressure: f.pressure("pressure"),
        },
    };
    Reading {
        kind,
        when: f.text("when"),
        instrument: f.text("instrument"),
        tap: f.text("place"),
    }
}

pub async fn add_reading(
    State(app): State<App>,
    Path((job, supply)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let kind = pairs
        .iter()
        .find(|p| p.0 == "kind")
        .map_or("static", |p| p.1.as_str())
        .to_owned();
    let form = format!(
        "new-{}",
        if ["static", "dynamic", "bucket"].contains(&kind.as_str()) {
            &kind
        } else {
            "static"
        }
    );
    Change {
        app: &app,
        job,
        supply: &supply,
        form: &form,
        fields: &READING_FIELDS,
        show: Show::Lists,
    }
    .save(pairs, |supply, f, _| {
        let reading = reading(f);
        supply.readings.push(reading);
    })
    .await
}

pub async fn save_reading(
    State(app): State<App>,
    Path((job, supply, index)): Path<(i64, String, usize)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let form = format!("reading-{index}");
    Change {
        app: &app,
        job,
        supply: &supply,
        form: &form,
        fields: &READING_FIELDS,
        show: Show::Figures,
    }
    .save(pairs, |supply, f, _| {
        let reading = reading(f);
        match supply.readings.get_mut(index) {
            Some(place) => *place = reading,
            None => f.fault("form", "this reading was removed meanwhile"),
        }
    })
    .await
}

pub async fn remove_reading(
    State(app): State<App>,
    Path((job, supply, index)): Path<(i64, String, usize)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let form = format!("reading-{index}");
    Change {
        app: &app,
        job,
        supply: &supply,
        form: &form,
        fields: &READING_FIELDS,
        show: Show::Lists,
    }
    .save(pairs, |supply, f, _| {
        if index < supply.readings.len() {
            supply.readings.remove(index);
        } else {
            f.fault("form", "this reading was removed meanwhile");
        }
    })
    .await
}

const PART_FIELDS: [&str; 6] = ["pipe", "length", "rise", "size", "model", "set"];

pub async fn add_part(
    State(app): State<App>,
    Path((job, supply)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    Change {
        app: &app,
        job,
        supply: &supply,
        form: "gauge",
        fields: &["read_after"],
        show: Show::Lists,
    }
    .save(pairs, |supply, f, plan| {
        let metric = plan.units == UnitSystem::Metric;
        let part = match f.get("what") {
            "pipe" => ChainPart::Pipe {
                pipe: if metric {
                    "pe100-sdr11 32mm"
                } else {
                    "copper-l 1in"
                }
                .parse()
                .expect("a pipe of the catalogue"),
                length: if metric {
                    Length::from_m(10.0)
                } else {
                    Length::from_ft(30.0)
                },
                rise: Length::ZERO,
            },
            "meter" => ChainPart::Meter { size: "3/4in".into() },
            "regulator" => ChainPart::Regulator {
                set: Pressure::from_psi(70.0),
            },
            model => ChainPart::Device {
                model: model.to_owned(),
            },
        };
        supply.chain.push(ChainItem {
            id: plan.fresh_id('c'),
            part,
        });
    })
    .await
}

pub async fn save_part(
    State(app): State<App>,
    Path((job, supply, part)): Path<(i64, String, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let form = format!("part-{part}");
    Change {
        app: &app,
        job,
        supply: &supply,
        form: &form,
        fields: &PART_FIELDS,
        show: Show::Figures,
    }
    .save(pairs, |supply, f, _| {
        let Some(item) = supply.chain.iter_mut().find(|c| c.id == part) else {
            return f.fault("form", "this part was removed meanwhile");
        };
        match &mut item.part {
            ChainPart::Pipe { pipe, length, rise } => {
                if let Some(picked) = f.parsed("pipe") {
                    *pipe = picked;
                }
                *length = f.length("length");
                *rise = f.length_or_zero("rise");
            }
            ChainPart::Meter { size } => *size = f.text("size"),
            ChainPart::Device { model } => *model = f.text("model"),
            ChainPart::Regulator { set } => *set = f.pressure("set"),
        }
    })
    .await
}

pub async fn move_part(
    State(app): State<App>,
    Path((job, supply, part, what)): Path<(i64, String, String, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let form = format!("part-{part}");
    Change {
        app: &app,
        job,
        supply: &supply,
        form: &form,
        fields: &PART_FIELDS,
        show: Show::Lists,
    }
    .save(pairs, |supply, f, _| {
        let Some(at) = supply.chain.iter().position(|c| c.id == part) else {
            return f.fault("form", "this part was removed meanwhile");
        };
        match what.as_str() {
            "up" if at > 0 => supply.chain.swap(at, at - 1),
            "down" if at + 1 < supply.chain.len() => supply.chain.swap(at, at + 1),
            "remove" => {
                supply.chain.remove(at);
                if supply.read_after.as_deref() == Some(&part) {
                    supply.read_after = at.checked_sub(1).map(|i| supply.chain[i].id.clone());
                }
            }
            _ => {}
        }
    })
    .await
}
