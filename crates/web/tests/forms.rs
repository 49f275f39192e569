//! Every form of every screen: what is typed well changes the job by just that, what is typed wrong is
//! said at its field and changes nothing.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use serde_json::Value;
use server::{ask, body, multipart, post, serve, status};
use sqlx::PgPool;
use std::net::SocketAddr;

/// The job as its file has it.
async fn plan(at: SocketAddr, job: &str) -> Value {
    let answer = ask(at, &format!("GET /jobs/{job}/job.json HTTP/1.1"), "").await;
    serde_json::from_str(body(&answer)).unwrap()
}

/// Posts a form of the corner plot as an open page does.
async fn send(at: SocketAddr, path: &str, form: &str) -> String {
    post(at, &format!("/jobs/3/{path}"), form, "\r\nhx-request: true").await
}

/// Each form is refused at a field, in words, and the job stays as it is.
async fn all_refused(at: SocketAddr, forms: &[(&str, &str, &str, &str)]) {
    let before = plan(at, "3").await;
    for (path, form, field, words) in forms {
        let answer = send(at, path, form).await;
        assert_eq!(status(&answer), "422", "{path} {form}: {}", body(&answer));
        let line = format!("<div id=\"err-{field}\" hx-swap-oob=\"innerHTML\">");
        let said = body(&answer).split_once(&line).map(|s| s.1.split("</div>").next().unwrap());
        assert!(
            said.is_some_and(|s| s.contains(words)),
            "{path} {form}: {field} says {said:?}, wanted {words}"
        );
        assert!(answer.contains("hx-reswap: none"), "the page stays: {path}");
    }
    assert_eq!(plan(at, "3").await, before, "a refused form changed the job");
}

/// Each form is taken.
async fn all_taken(at: SocketAddr, forms: &[(&str, &str)]) {
    for (path, form) in forms {
        let answer = send(at, path, form).await;
        assert_eq!(status(&answer), "200", "{path} {form}: {}", body(&answer));
        assert!(body(&answer).contains("id=\"rail\""), "{path}: the rail follows");
    }
}

#[sqlx::test(migrations = false)]
async fn water_is_typed_reading_by_reading_and_part_by_part(pool: PgPool) {
    let at = serve(&pool).await;
    all_refused(
        at,
        &[
            ("water/s1/readings/0", "kind=static&pressure=lots", "reading-0-pressure", "‘lots’"),
            ("water/s1/readings/0", "kind=static&pressure=60+gpm", "reading-0-pressure", "pressure"),
            ("water/s1/readings/0", "kind=dynamic&pressure=50&flow=", "reading-0-flow", "flow"),
            ("water/s1/readings/new", "kind=bucket&volume=5&time=", "new-bucket-time", "time"),
            ("water/s1/readings/9", "kind=static&pressure=60", "reading-9-form", "deleted by someone else"),
            ("water/s1/readings/9/remove", "", "reading-9-form", "deleted by someone else"),
            ("water/s1/chain/c1", "pipe=gold+1in&length=10", "part-c1-pipe", "gold"),
            ("water/s1/chain/c1", "pipe=copper-l+1in&length=far", "part-c1-length", "‘far’"),
            ("water/s1/chain/c9", "length=10", "part-c9-form", "deleted by someone else"),
            ("water/s1/chain/c9/up", "", "part-c9-form", "deleted by someone else"),
            ("water/s1/source", "name=Meter&water=street&gauge_height=tall", "source-gauge_height", "‘tall’"),
        ],
    )
    .await;
    all_taken(
        at,
        &[
            ("water/s1/readings/0", "kind=static&pressure=58&when=2026-06-01&instrument=g&place=bib"),
            ("water/s1/readings/new", "kind=dynamic&flow=10&pressure=51+psi"),
            ("water/s1/chain/new", "what=pipe"),
            ("water/s1/chain/new", "what=regulator"),
            ("water/s1/chain/c2/down", ""),
            ("water/s1/read-after", "read_after=c1"),
            ("water/s1/pin", "school=timed-bucket"),
            ("water/s1/source", "name=At+the+street&water=street&gauge_height=2"),
        ],
    )
    .await;
    let supply = plan(at, "3").await["supplies"][0].clone();
    assert_eq!(supply["name"], "At the street");
    assert_eq!(supply["readings"][0]["measured"]["pressure"], "58 psi");
    assert_eq!(supply["readings"].as_array().unwrap().len(), 5);
    assert_eq!(supply["readings"][4]["measured"]["flow"], "10 gpm", "a bare number is gpm here");
    let ids: Vec<&str> =
        supply["chain"].as_array().unwrap().iter().map(|c| c["id"].as_str().unwrap()).collect();
    assert_eq!(&ids[..3], ["c1", "c3", "c2"], "moved down by one");
    assert_eq!((ids.len(), supply["read_after"].as_str()), (7, Some("c1")));
    assert_eq!(supply["pin"], "timed-bucket");
    // The gauge goes with the part behind which it stands.
    all_taken(at, &[("water/s1/chain/c1/remove", ""), ("water/s1/pin", "school=none")]).await;
    let supply = plan(at, "3").await["supplies"][0].clone();
    assert!(supply["read_after"].is_null() && supply["pin"].is_null());
}

#[sqlx::test(migrations = false)]
async fn another_source_starts_with_usual_figures_and_keeps_what_is_typed_then(pool: PgPool) {
    let at = serve(&pool).await;
    all_taken(at, &[("water/s1/source", "name=Well&water=well")]).await;
    let water = plan(at, "3").await["supplies"][0]["water"].clone();
    assert_eq!(
        (&water["from"], &water["cut_in"], &water["cut_out"]),
        (&Value::from("well"), &Value::from("40 psi"), &Value::from("60 psi"))
    );
    all_taken(at, &[("water/s1/source", "name=Well&water=well&cut_in=45&cut_out=65&pump_flow=12")]).await;
    assert_eq!(plan(at, "3").await["supplies"][0]["water"]["pump_flow"], "12 gpm");
    all_taken(
        at,
        &[
            ("water/s1/source", "name=Barrels&water=tank"),
            ("water/s1/source", "name=Barrels&water=tank&height=6+ft"),
        ],
    )
    .await;
    assert_eq!(plan(at, "3").await["supplies"][0]["water"]["height"], "6 ft");
    let page = ask(at, "GET /jobs/3/water HTTP/1.1", "").await;
    assert!(body(&page).contains("Lowest water level above outlet") && body(&page).contains("2.6"));
    all_taken(at, &[("water/s1/source", "name=Pump&water=pump")]).await;
    all_refused(
        at,
        &[
            ("water/s1/source", "name=P&water=pump&curve=20", "source-curve", "enter flow:pressure"),
            ("water/s1/source", "name=P&water=pump&curve=20+gpm:fast", "source-curve", "fast"),
            ("water/s1/source", "name=P&water=pump&curve=0+gpm:80+psi", "source-curve", "3 to 50 points"),
        ],
    )
    .await;
    let curve = "name=P&water=pump&potable=yes&curve=0+gpm:70+psi;+10+gpm:60+psi;+20+gpm:40+psi";
    all_taken(at, &[("water/s1/source", curve)]).await;
    let water = plan(at, "3").await["supplies"][0]["water"].clone();
    assert_eq!((water["curve"].as_array().unwrap().len(), &water["potable"]), (3, &Value::from(true)));
    // A second connection comes and goes; the last one stays.
    all_taken(at, &[("water/add", "")]).await;
    let supplies = plan(at, "3").await["supplies"].clone();
    let second = supplies[1]["id"].as_str().unwrap().to_owned();
    all_taken(at, &[(format!("water/{second}/remove").as_str(), "")]).await;
    assert_eq!(plan(at, "3").await["supplies"].as_array().unwrap().len(), 1);
}

#[sqlx::test(migrations = false)]
async fn heads_are_typed_by_area_and_come_onto_valves(pool: PgPool) {
    let at = serve(&pool).await;
    all_refused(
        at,
        &[
            ("heads/new", "name=Strip&nozzle=spray-12&count=&arc=180", "new-count", "1 or more"),
            ("heads/new", "name=Strip&nozzle=spray-12&count=-2&arc=180", "new-count", "whole number"),
            ("heads/new", "name=&nozzle=spray-12&count=2&arc=180", "new-name", ""),
            ("heads/new", "name=Strip&nozzle=moon&count=2&arc=180", "new-nozzle", "moon"),
            (
                "heads/g1",
                "name=F&nozzle=spray-12&a180=0&spacing=12&pipe=class-200+1in&distance=9&plants=lawn&\
                    exposure=full-sun&soil=loam",
                "g1-lots",
                "1 or more heads",
            ),
            ("heads/g1", "name=F&nozzle=spray-12&a180=2&other=many", "g1-other", "quantity x arc"),
            ("heads/g1", "name=F&nozzle=spray-12&a180=2&spacing=wide", "g1-spacing", "‘wide’"),
        ],
    )
    .await;
    all_taken(at, &[("heads/new", "name=Verge&nozzle=spray-12&count=4&arc=180")]).await;
    let job = plan(at, "3").await;
    let group = job["groups"].as_array().unwrap().last().unwrap().clone();
    assert_eq!((&group["name"], &group["lots"][0]["count"]), (&Value::from("Verge"), &Value::from(4)));
    assert!(!group["lots"][0]["valve"].is_null(), "a valve came with the heads");
    let id = group["id"].as_str().unwrap();
    // The same card with other figures; pairs of how many and arc are read too.
    let card = "name=Verge&nozzle=spray-12&a90=2&a180=3&other=1+x+120&arrangement=middle&spacing=11&row_spacing=\
        &pipe=class-200+1in&feed_pipe=&distance=15&rise=1&plants=lawn&exposure=full-sun&soil=loam&slope=5";
    all_taken(at, &[(format!("heads/{id}").as_str(), card)]).await;
    let job = plan(at, "3").await;
    let group = job["groups"].as_array().unwrap().last().unwrap().clone();
    let arcs: Vec<(i64, i64)> = group["lots"]
        .as_array()
        .unwrap()
        .iter()
        .map(|l| (l["arc"].as_i64().unwrap(), l["count"].as_i64().unwrap()))
        .collect();
    let of = |arc: i64| arcs.iter().filter(|l| l.0 == arc).map(|l| l.1).sum::<i64>();
    assert_eq!((of(90), of(180), of(120)), (2, 3, 1), "{arcs:?}");
    assert_eq!((&group["spacing"], &group["arrangement"]), (&Value::from("11 ft"), &Value::from("middle")));
    // Its valves go with it.
    let valves = job["valves"].as_array().unwrap().len();
    all_taken(at, &[(format!("heads/{id}/remove").as_str(), "")]).await;
    let after = plan(at, "3").await;
    assert!(after["valves"].as_array().unwrap().len() < valves);
    assert_eq!(after["groups"].as_array().unwrap().len(), 6);
    assert_eq!(status(&send(at, "heads/g77", "name=x").await), "409", "somebody took it away");
}

#[sqlx::test(migrations = false)]
async fn valves_are_typed_and_heads_move_between_them(pool: PgPool) {
    let at = serve(&pool).await;
    let valve = "name=Front&supply=s1&model=valve-1in&filter=&main_pipe=class-200+1in";
    all_refused(
        at,
        &[
            ("valves/v1", &format!("{valve}&main_length=long"), "valve-main_length", "‘long’"),
            ("valves/v1", "name=F&model=valve-9in&main_pipe=", "valve-model", "valve-9in"),
            ("valves/v1/move", "to=v2", "move-form", "Select the heads to move first"),
        ],
    )
    .await;
    all_taken(
        at,
        &[
            ("valves/v1", &format!("{valve}&main_length=30&main_rise=1&locked=yes")),
            ("valves/v1/move", "to=new&head=g1.0&head=g1.1"),
        ],
    )
    .await;
    let job = plan(at, "3").await;
    let valves = job["valves"].as_array().unwrap();
    assert_eq!((&valves[0]["name"], &valves[0]["locked"]), (&Value::from("Front"), &Value::from(true)));
    assert_eq!(valves[0]["mainline"]["length"], "30 ft");
    assert_eq!(valves.len(), 6, "a new valve behind the first");
    let new = valves[1]["id"].as_str().unwrap();
    let moved: i64 = job["groups"][0]["lots"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|l| l["valve"] == new)
        .map(|l| l["count"].as_i64().unwrap())
        .sum();
    assert_eq!(moved, 2);
    // How one head comes to its figures; one that is not there is not.
    let how = ask(at, "GET /jobs/3/valves/v1/head/g1.5 HTTP/1.1", "").await;
    assert!(body(&how).contains("Front lawn, head 6") && body(&how).contains("Hazen and Williams 1905"));
    let none = ask(at, "GET /jobs/3/valves/v1/head/g1.77 HTTP/1.1", "").await;
    assert_eq!(status(&none), "404");
    // What a new split would change is said before; it is done as it was looked at, or not at all.
    let look = ask(at, "GET /jobs/3/valves/split HTTP/1.1", "").await;
    let look = body(&look);
    assert!(look.contains("now, ") && look.contains("after reassigning"), "{look}");
    let seq = look.split(r#"name="looked" value=""#).nth(1).and_then(|l| l.split('"').next()).unwrap();
    let before = plan(at, "3").await;
    for unseen in ["", "looked=0", "looked=x"] {
        assert_eq!(status(&send(at, "valves/split", unseen).await), "409", "{unseen}");
    }
    assert_eq!(plan(at, "3").await, before);
    all_taken(at, &[("valves/split", format!("looked={seq}").as_str()), ("valves/new", "")]).await;
    let job = plan(at, "3").await;
    let locked = job["valves"].as_array().unwrap().iter().find(|v| v["id"] == "v1");
    assert!(locked.is_some(), "a locked valve stays through a split");
    let last = job["valves"].as_array().unwrap().last().unwrap()["id"].as_str().unwrap().to_owned();
    all_taken(at, &[(format!("valves/{last}/remove").as_str(), "")]).await;
}

#[sqlx::test(migrations = false)]
async fn nozzles_of_the_house_are_typed_charted_and_put_on_the_truck(pool: PgPool) {
    let at = serve(&pool).await;
    all_refused(
        at,
        &[
            (
                "catalogue/add",
                "name=&kind=spray&pressure=30&arc=180&radius=12&flow=1.2",
                "noz-name",
                "a name",
            ),
            (
                "catalogue/add",
                "name=A&kind=spray&pressure=30&arc=5&radius=12&flow=1.2",
                "noz-arc",
                "20 to 360",
            ),
            (
                "catalogue/add",
                "name=A&kind=spray&pressure=0&arc=180&radius=12&flow=1.2",
                "noz-pressure",
                "zero",
            ),
            ("catalogue/add", "name=A&kind=spray&pressure=30&arc=180&radius=12&flow=x", "noz-flow", "‘x’"),
            (
                "catalogue/add",
                "name=A&kind=spray&pressure=30&arc=180&radius=12&flow=1.2&price=much",
                "noz-price",
                "a number",
            ),
        ],
    )
    .await;
    let row = |psi: u32, flow: f64| {
        format!("name=House+12&kind=spray&pressure={psi}&arc=180&radius=12&flow={flow}")
    };
    all_taken(
        at,
        &[
            ("catalogue/add", &row(30, 1.2)),
            ("catalogue/add", &row(40, 1.4)),
            ("catalogue/truck", "id=own-house-12&on=yes"),
        ],
    )
    .await;
    let job = plan(at, "3").await;
    assert_eq!(job["nozzles"][0]["chart"].as_array().unwrap().len(), 2, "a second row, not a second nozzle");
    assert_eq!(job["favourites"], serde_json::json!(["own-house-12"]));
    let detail = ask(at, "GET /jobs/3/catalogue/nozzle?nozzle=own-house-12 HTTP/1.1", "").await;
    assert!(body(&detail).contains("from your chart"));
    // In use it stays.
    all_taken(at, &[("heads/new", "name=Verge&nozzle=own-house-12&count=2&arc=180")]).await;
    let refused = send(at, "catalogue/remove", "id=own-house-12").await;
    assert!(status(&refused) == "400" && body(&refused).contains("Verge uses this nozzle"), "{refused}");
    // A chart: seen before it is saved, its faults by line.
    let chart = "chart=name,kind,pressure+psi,arc,radius+ft,flow+gpm%0AWide,spray,30,180,15,1.9%0AWide,spray,40,180,\
        15.3,2.2%0ABad,spray,30,180,-4,1";
    let seen = send(at, "catalogue/preview", chart).await;
    assert!(body(&seen).contains("Wide") && body(&seen).contains("4"), "{seen}");
    assert_eq!(plan(at, "3").await["nozzles"].as_array().unwrap().len(), 1, "nothing is saved by looking");
    all_taken(at, &[("catalogue/save", chart)]).await;
    let csv = ask(at, "GET /jobs/3/catalogue.csv HTTP/1.1", "").await;
    assert!(csv.contains("filename=\"nozzles.csv\"") && body(&csv).contains("Wide"));
    let none = send(at, "catalogue/save", "chart=nonsense").await;
    assert!(body(&none).contains("no usable nozzle"));
}

#[sqlx::test(migrations = false)]
async fn figures_typed_beside_the_board_are_the_same_gestures(pool: PgPool) {
    let at = serve(&pool).await;
    all_refused(
        at,
        &[
            ("ground/op", "form=mv&op=fly&ids=d1&right=1&up=0", "mv-form", "Unknown action"),
            ("ground/op", "form=mv&op=move&ids=d1&right=far&up=0", "mv-right", "‘far’"),
            ("ground/op", "form=rect&op=rectangle&kind=area:lawn&along=0&across=10", "rect-along", ""),
            ("ground/op", "form=rect&op=rectangle&kind=moon&along=9&across=10", "rect-kind", "choose one"),
            ("ground/op", "form=ch&op=chamfer&ids=d1&corner=0&cut=1", "ch-corner", "counts from 1"),
            ("ground/op", "form=jn&op=join&ids=d1", "jn-form", ""),
            ("ground/thing/d1", "name=House&kind=wall", "thing-kind", "drawn as lines"),
            ("ground/thing/d1", "name=House&kind=building&height=tall", "thing-height", "‘tall’"),
            ("ground/layout", "area=a1&kind=moon", "lay-kind", "choose one from the list"),
        ],
    )
    .await;
    all_taken(
        at,
        &[
            ("ground/op", "form=rect&op=rectangle&kind=area:lawn&along=20&across=10&x=200&y=200"),
            ("ground/op", "form=mv&op=move&ids=d1&right=1&up=0"),
            ("ground/op", "form=point&op=point&kind=note&x=1&y=2&text=Here"),
            ("ground/thing/d1", "name=Villa&kind=building&height=20"),
        ],
    )
    .await;
    let job = plan(at, "3").await;
    let text = job.to_string();
    assert!(text.contains("\"Villa\"") && text.contains("\"20 ft\"") && text.contains("\"Here\""));
    let gone = send(at, "ground/thing/zz", "name=x").await;
    assert_eq!(status(&gone), "409");
    // Two tapes that meet, and two that are too short to.
    let tapes =
        |a: &str, b: &str| format!("GET /jobs/3/ground/tapes?ax=0&ay=0&a={a}&bx=6&by=0&b={b} HTTP/1.1");
    let meet = ask(at, &tapes("5m", "5m"), "").await;
    let points: Value = serde_json::from_str(body(&meet)).unwrap();
    assert!((points["points"][0][1].as_f64().unwrap().abs() - 4.0).abs() < 1e-6, "3, 4, 5: {points}");
    let apart = ask(at, &tapes("1m", "1m"), "").await;
    assert_eq!(status(&apart), "422");
    assert!(body(&apart).contains("message"));
}

#[sqlx::test(migrations = false)]
async fn kinds_are_compared_while_somebody_waits_and_one_is_taken(pool: PgPool) {
    let at = serve(&pool).await;
    let early = send(at, "layout/use", "area=a1&kind=spray").await;
    assert!(body(&early).contains("Compare again"), "{early}");
    let area = {
        let job = plan(at, "3").await;
        let things = job["site"]["things"].as_array().or(job["site"]["objects"].as_array()).unwrap();
        let lawn = things.iter().find(|t| t["what"]["is"] == "area" && t["what"]["kind"] == "lawn").unwrap();
        lawn["id"].as_str().unwrap().to_owned()
    };
    assert_eq!(status(&send(at, "layout/run", &format!("area={area}")).await), "200");
    let mut shown = String::new();
    for _ in 0..600 {
        let path = format!("GET /jobs/3/layout/progress?area={area} HTTP/1.1");
        shown = ask(at, &path, "").await;
        if body(&shown).contains("layout/use") && !body(&shown).contains("layout-bar") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert!(body(&shown).contains("Usual here"), "{shown}");
    let taken = send(at, "layout/use", &format!("area={area}&kind=spray")).await;
    assert!(status(&taken) == "200" && body(&taken).contains("Heads laid out"), "{taken}");
    let job = plan(at, "3").await;
    let laid = job["groups"].as_array().unwrap().iter().any(|g| g["area"] == area.as_str());
    assert!(laid, "heads stand on {area}");
    // Drip was laid too, row by row, and can be taken like any other.
    let drip = send(at, "layout/use", &format!("area={area}&kind=dripline")).await;
    assert_eq!(status(&drip), "200", "{drip}");
    let job = plan(at, "3").await;
    let groups = job["groups"].as_array().unwrap();
    let here: Vec<_> = groups.iter().filter(|g| g["area"] == area.as_str()).collect();
    assert!(here.len() == 1 && here[0]["drip"]["as"] == "rows", "{here:?}");
    // The ground changed since: what was compared is refused.
    all_taken(at, &[("ground/op", &format!("form=mv&op=move&ids={area}&right=1&up=0"))]).await;
    let late = send(at, "layout/use", &format!("area={area}&kind=spray")).await;
    assert!(status(&late) == "409" && body(&late).contains("the site plan changed"), "{late}");
}

#[sqlx::test(migrations = false)]
async fn a_quick_question_names_its_fields_and_becomes_a_job(pool: PgPool) {
    let at = serve(&pool).await;
    let wrong = ask(at, "GET /quick?static=soft&count=x&head=moon&units=us HTTP/1.1", "").await;
    for label in ["Static pressure", "How many", "Nozzle"] {
        assert!(body(&wrong).contains(label), "{label} is named");
    }
    let asked = "units=metric-bar&static=4.2&meter=3/4in&backflow=none&head=spray-12&arc=180&count=4&spacing=3.6\
        &pipe=class-200+1in&arrangement=chain&distance=6&regulate=none&valve=valve-1in";
    let page = ask(at, &format!("GET /quick?{asked} HTTP/1.1"), "").await;
    assert!(body(&page).contains(" bar") && !body(&page).contains(" psi<"), "in bar");
    let made = post(at, "/quick/job", asked, "").await;
    assert_eq!(status(&made), "303");
    let job = plan(at, "4").await;
    assert_eq!(job["units"], "metric-bar");
    assert_eq!(job["supplies"][0]["readings"][0]["measured"]["pressure"], "420 kPa");
    let refused = post(at, "/quick/job", "static=soft", "").await;
    assert!(status(&refused) == "400" && body(&refused).contains("Static pressure"), "{refused}");
}

#[sqlx::test(migrations = false)]
async fn jobs_are_made_imported_searched_and_ruled(pool: PgPool) {
    let at = serve(&pool).await;
    let made = post(at, "/jobs", "name=New+plot&place=Here&units=metric", "").await;
    assert!(status(&made) == "303" && made.contains("/jobs/4/water"), "{made}");
    let nameless = post(at, "/jobs", "name=+&units=us", "").await;
    assert_eq!(status(&nameless), "422");
    let file = ask(at, "GET /jobs/3/job.json HTTP/1.1", "").await;
    let copied = multipart(at, "/jobs/import", "plot.json", body(&file).as_bytes()).await;
    assert!(status(&copied) == "303" && copied.contains("/jobs/5/"), "{copied}");
    assert_eq!(plan(at, "5").await, plan(at, "3").await, "a file is the whole job");
    let empty = multipart(at, "/jobs/import", "none.json", b"").await;
    assert!(body(&empty).contains("Choose a job file first"), "{empty}");
    let found = ask(at, "GET /?search=clinic HTTP/1.1", "").await;
    assert!(body(&found).contains("Veterinary clinic") && !body(&found).contains("Harrow Bend"));
    all_refused(
        at,
        &[
            ("rules", "flow_margin=500&velocity_watch=5&velocity_stop=7", "rules-flow_margin", "0 to 100"),
            (
                "rules",
                "flow_margin=10&velocity_watch=quick&velocity_stop=7",
                "rules-velocity_watch",
                "‘quick’",
            ),
            ("details", "name=x&units=cubits", "job-units", "choose one"),
            ("details", "name=&units=us", "job-name", ""),
        ],
    )
    .await;
    // Everything of the day is in the history, newest first.
    all_taken(at, &[("water/s1/readings/0", "kind=static&pressure=58")]).await;
    let page = ask(at, "GET /jobs/3/details HTTP/1.1", "").await;
    assert!(body(&page).contains("History") || body(&page).contains("history"), "{page}");
}
