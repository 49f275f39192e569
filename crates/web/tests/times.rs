//! Run times from their forms: climate, hours, wishes, starts, the meter; what can't be is said at its field.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use serde_json::Value;
use server::{ask, body, post, serve, status};
use sqlx::PgPool;
use std::net::SocketAddr;

async fn watering(at: SocketAddr) -> Value {
    let answer = ask(at, "GET /jobs/3/job.json HTTP/1.1", "").await;
    let plan: Value = serde_json::from_str(body(&answer)).unwrap();
    plan["watering"].clone()
}
async fn send(at: SocketAddr, path: &str, form: &str) -> String {
    post(at, &format!("/jobs/3/times/{path}"), form, "\r\nhx-request: true").await
}
async fn page(at: SocketAddr, path: &str) -> String {
    let answer = ask(at, &format!("GET /jobs/3/{path} HTTP/1.1"), "").await;
    assert_eq!(status(&answer), "200");
    body(&answer).to_owned()
}
const HOURS: &str = "opens=22:00&closes=06:00&days=any&tune_step=10&at_once=4&starts=8";

#[sqlx::test(migrations = false)]
async fn a_climate_is_picked_typed_and_read_from_a_file(pool: PgPool) {
    let at = serve(&pool).await;
    let first = page(at, "times").await;
    assert!(first.contains("No climate data") && first.contains("Longest night in July"));
    let answer = send(at, "station-of-table", "month=7&table=Merrin+Valley").await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    assert!(!answer.contains("No climate data"));
    let known = watering(at).await;
    assert_eq!(known["climate"]["months"].as_array().unwrap().len(), 12);
    let answer = send(at, "station-of-table", "month=7&table=Atlantis").await;
    assert_eq!(status(&answer), "422");
    // Typed: a bare number is inches; what is wrong is said at its field and nothing is lost.
    let answer = send(at, "climate", "month=7&et0_7=1.9&et0_8=&rain_8=0.5&et0_6=lots&bare=0-3").await;
    assert_eq!(status(&answer), "422");
    for field in ["et0_8", "et0_6", "bare"] {
        let filled = format!("id=\"err-climate-{field}\" hx-swap-oob=\"innerHTML\"><");
        assert!(!answer.contains(&filled) && answer.contains(&format!("err-climate-{field}")), "{field}");
    }
    assert_eq!(watering(at).await, known, "nothing is half saved");
    let answer = send(at, "climate", "month=7&et0_7=1.9&rain_7=0.2&bare=1-3,+12").await;
    assert_eq!(status(&answer), "200");
    let typed = watering(at).await["climate"].clone();
    assert_eq!(typed["months"][0]["et0"], "1.9 in");
    assert_eq!(typed["bare"], serde_json::json!([1, 2, 3, 12]));
    assert!(page(at, "times?month=5").await.contains("No climate data for May"));
    let file = "month%2Cet0+mm%2Fday%0A7%2C5.2%0A8%2Cbad%0A";
    let answer = send(at, "file", &format!("month=7&text={file}")).await;
    assert_eq!(status(&answer), "422");
    assert!(answer.contains("line 3: et0 ‘bad’ is not a number"), "{answer}");
    let answer = send(at, "file", "month=7&text=month%2Cet0+mm%2Fday%0A7%2C5%0A").await;
    assert_eq!(status(&answer), "200");
    assert_eq!(watering(at).await["climate"]["months"][0]["et0"], "0.035 m");
}

#[sqlx::test(migrations = false)]
async fn hours_and_days_are_kept_and_impossible_ones_refused(pool: PgPool) {
    let at = serve(&pool).await;
    for (form, says) in [
        ("opens=25:00&closes=06:00&days=any&tune_step=10&at_once=4&starts=8", "such as 22:00"),
        (
            "opens=22:00&closes=22:00&days=any&tune_step=10&at_once=4&starts=8",
            "window start and end are equal",
        ),
        ("opens=22:00&closes=06:00&days=weekdays&tune_step=10&at_once=4&starts=8", "at least one day"),
        ("opens=22:00&closes=06:00&days=every&every=0&tune_step=10&at_once=4&starts=8", "1 to 31 days"),
        ("opens=22:00&closes=06:00&days=any&tune_step=10&at_once=0&starts=8", "from 1 to 8"),
        (
            "opens=22:00&closes=06:00&closed_from=10:00&days=any&tune_step=10&at_once=4&starts=8",
            "the end of the no-watering",
        ),
    ] {
        let answer = send(at, "hours", &format!("month=7&{form}")).await;
        assert_eq!(status(&answer), "422", "{form}");
        assert!(answer.contains(says), "{form}: {}", body(&answer));
    }
    assert!(watering(at).await.is_null(), "Nothing was saved");
    let form = format!("month=7&{HOURS}&most_minutes=12&closed_from=10:00&closed_to=18:00");
    let answer = send(at, "hours", &form.replace("days=any", "days=weekdays&weekday=1&weekday=4")).await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    // Typed once for a place: another job takes them as they are.
    let offered = ask(at, "GET /jobs/1/times/others HTTP/1.1", "").await;
    assert!(offered.contains("<option value=\"3\">") && !offered.contains("<option value=\"1\">"));
    let taken = post(at, "/jobs/1/times/like", "month=7&from=3", "\r\nhx-request: true").await;
    assert_eq!(status(&taken), "200", "{}", body(&taken));
    let other = ask(at, "GET /jobs/1/job.json HTTP/1.1", "").await;
    let other: Value = serde_json::from_str(body(&other)).unwrap();
    assert_eq!(other["watering"]["rules"], watering(at).await["rules"]);
    let nobody = post(at, "/jobs/1/times/like", "month=7&from=x", "\r\nhx-request: true").await;
    assert!(nobody.contains("hoose a job"), "{nobody}");
    let rules = watering(at).await["rules"].clone();
    assert_eq!(rules["days"], serde_json::json!({"on": "weekdays", "days": [1, 4]}));
    assert_eq!(rules["most_minutes"], 12);
    assert!(answer.contains("short: watering rules allow no more"), "what is missing is said");
}

#[sqlx::test(migrations = false)]
async fn a_station_is_tuned_its_start_kept_and_let_go(pool: PgPool) {
    let at = serve(&pool).await;
    let answer = send(at, "station", "month=7&valve=v1&factor=0.6&rhythm=often&controller=1").await;
    assert_eq!(status(&answer), "200", "{}", body(&answer));
    let wish = |w: &Value| w["stations"][0].clone();
    assert_eq!(wish(&watering(at).await)["factor"], 0.6);
    for (form, says) in [
        ("valve=v1&factor=9", "0.05 to 1.5"),
        ("valve=v1&density=x", "enter a number"),
        ("valve=v77&factor=0.5", "no valve"),
    ] {
        let answer = send(at, "station", &format!("month=7&{form}")).await;
        assert_eq!(status(&answer), "422", "{form}");
        assert!(answer.contains(says), "{form}: {}", body(&answer));
    }
    let answer = send(at, "tune", "month=7&valve=v1&found=too-dry&who=Ana").await;
    assert!(answer.contains("too dry (Ana), run time × 1.10"), "{}", body(&answer));
    let answer = send(at, "start", "month=7&valve=v1&start=23:15").await;
    assert_eq!(status(&answer), "200");
    assert!(answer.contains("starts 11:15 PM") && answer.contains(", start set by hand"));
    assert_eq!(wish(&watering(at).await)["start"], 75);
    let refused = send(at, "start", "month=7&valve=v1&start=soon").await;
    assert!(status(&refused) == "422" && refused.contains("such as 22:00"));
    send(at, "start", "month=7&valve=v1&start=").await;
    send(at, "tune", "month=7&valve=v1&found=none").await;
    send(at, "station", "month=7&valve=v1&controller=1").await;
    assert_eq!(
        watering(at).await["stations"].as_array().map_or(0, Vec::len),
        0,
        "where nothing is wished any more nothing is kept"
    );
}

#[sqlx::test(migrations = false)]
async fn the_meter_is_read_over_its_end_and_the_sheet_leaves_in_three_forms(pool: PgPool) {
    let at = serve(&pool).await;
    let form = "month=7&tariff=3000+gal:+1.10;+2.40&meter_size=10000+gal";
    assert_eq!(status(&send(at, "usage", form).await), "200");
    // As bills count; a bare 20 would be 20 gallons of a month.
    let asked = send(at, "usage", "month=7&tariff=20:+1.50;+3").await;
    assert!(status(&asked) == "422" && asked.contains("very small"), "{asked}");
    let metric = send(at, "usage", "month=7&tariff=20+m3:+1.50;+3").await;
    assert_eq!(status(&metric), "200", "{metric}");
    assert_eq!(status(&send(at, "usage", form).await), "200");
    let refused = send(at, "usage", "month=7&tariff=3000+gal:+cheap").await;
    assert!(status(&refused) == "422" && refused.contains("(got ‘cheap’)"));
    send(at, "reading", "month=7&on=2026-07-01&showed=9800+gal").await;
    let answer = send(at, "reading", "month=7&on=2026-07-08&showed=240+gal").await;
    assert!(answer.contains("440 gal"), "{}", body(&answer));
    let refused = send(at, "reading", "month=7&on=2026-07-15&showed=12000+gal").await;
    assert!(status(&refused) == "422" && refused.contains("above the meter"));
    let shown = page(at, "times").await;
    assert!(shown.contains("3000 gal: 1.1; 2.4"), "prices come back as they were typed");
    assert!(page(at, "times/sheet").await.contains("Seasonal adjust"));
    let csv = ask(at, "GET /jobs/3/times/sheet.csv HTTP/1.1", "").await;
    assert!(csv.contains("content-type: text/csv") && body(&csv).contains("seasonal adjust %"));
    let ics = ask(at, "GET /jobs/3/times/season.ics HTTP/1.1", "").await;
    assert!(ics.contains("content-type: text/calendar") && ics.contains("BEGIN:VEVENT"));
    let share = "times/share?own=30+gal&all=120+gal&by_water=80&fixed=20&agreed=50";
    assert!(page(at, share).await.contains("<b>$30.00</b>"));
    let wrong = page(at, "times/share?own=130+gal&all=120+gal&by_water=80&fixed=20&agreed=50").await;
    assert!(wrong.contains("must not exceed the total use"));
    let rained = page(at, "times/rain?month=7&depth=0.6").await;
    assert!(rained.contains("Half of 0.60 in counts") && rained.contains("skips 1 day"), "{rained}");
    let noted = send(at, "rain", "month=7&depth=0.6&who=Ana").await;
    assert!(noted.contains("rain read by Ana, skip 1 day"), "{}", body(&noted));
    assert_eq!(status(&send(at, "rain", "month=7&depth=0").await), "422");
    assert!(page(at, "times/rain?month=7&depth=wet").await.contains("times-warning"));
    let none = send(at, "try", "month=7").await;
    assert!(none.contains("o controller configured"), "{none}");
    for odd in ["times?month=0", "times?month=99", "times?month=x", "times?month="] {
        assert!(page(at, odd).await.contains("Longest night in July"), "{odd}");
    }
}

#[sqlx::test(migrations = false)]
async fn the_night_of_a_large_site_is_packed_behind_the_page_and_can_be_stopped(pool: PgPool) {
    let at = serve(&pool).await;
    // The house's first valve eighty times.
    let file = ask(at, "GET /jobs/3/job.json HTTP/1.1", "").await;
    let mut plan: Value = serde_json::from_str(body(&file)).unwrap();
    let (valve, group) = (plan["valves"][0].clone(), plan["groups"][0].clone());
    let many = |part: &Value, letter: &str| -> Vec<Value> {
        let one = |n: usize| {
            let mut part = part.clone();
            part["id"] = format!("{letter}{n}").into();
            part["name"] = format!("Lawn {n}").into();
            for lot in part.get_mut("lots").and_then(Value::as_array_mut).into_iter().flatten() {
                lot["valve"] = format!("v{n}").into();
            }
            part
        };
        (0..80).map(one).collect()
    };
    plan["groups"] = many(&group, "g").into();
    plan["valves"] = many(&valve, "v").into();
    for key in ["site", "piping", "controller_stations"] {
        plan.as_object_mut().unwrap().remove(key);
    }
    for group in plan["groups"].as_array_mut().unwrap() {
        group.as_object_mut().unwrap().remove("area");
    }
    let sent = server::multipart(at, "/jobs/import", "large.json", plan.to_string().as_bytes()).await;
    assert_eq!(status(&sent), "303", "{}", body(&sent));
    let first = ask(at, "GET /jobs/4/times HTTP/1.1", "").await;
    assert!(body(&first).contains("Building the schedule for"), "{}", body(&first));
    let night = "GET /jobs/4/times/night?month=7 HTTP/1.1";
    assert!(body(&ask(at, night, "").await).contains("tries"));
    let stopped = post(at, "/jobs/4/times/night", "month=7", "\r\nhx-request: true").await;
    assert!(stopped.contains("Stopping with the best schedule so far"), "{stopped}");
    let done = loop {
        let answer = ask(at, night, "").await;
        if answer.contains("hx-redirect: /jobs/4/times?month=7") {
            break ask(at, "GET /jobs/4/times?month=7 HTTP/1.1", "").await;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    };
    assert!(body(&done).contains("Longest night in July"));
    assert!(body(&done).contains("Schedule does not fit"), "eighty lawns in one night");
}
