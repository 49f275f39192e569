//! The desk: jobs put away, copied, deleted and brought back; the company's rules; drawings looked at before
//! they come in; pictures that travel with the job; heads put on valves from the board; help.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod server;

use server::{ask, body, gesture, multipart, post, serve, status};
use sqlx::PgPool;
use std::net::SocketAddr;

async fn get(at: SocketAddr, path: &str) -> String {
    ask(at, &format!("GET {path} HTTP/1.1"), "").await
}

fn to(answer: &str) -> String {
    let line = answer.lines().find(|l| l.to_lowercase().starts_with("location:"));
    line.map_or_else(String::new, |l| l[9..].trim().to_owned())
}

fn drawing(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/../formats/tests/drawings/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

#[sqlx::test(migrations = false)]
async fn a_job_goes_to_the_archive_is_copied_and_rests_when_it_is_deleted(pool: PgPool) {
    let at = serve(&pool).await;
    let list = |on: &'static str| async move { body(&get(at, &format!("/?on={on}")).await).to_owned() };
    assert_eq!(status(&post(at, "/jobs/3/shelf", "to=archive", "").await), "303");
    assert!(!list("desk").await.contains("Harrow Bend") && list("archive").await.contains("Harrow Bend"));
    assert_eq!(status(&get(at, "/jobs/3/water").await), "200", "it opens as ever");
    // A copy has its own name; sent twice it is one; without a name it is called after the first.
    let copy = post(at, "/jobs/3/copy", "name=Twin&as=job&key=c-0000000000000001", "").await;
    let twice = post(at, "/jobs/3/copy", "name=Twin&as=job&key=c-0000000000000001", "").await;
    assert_eq!((status(&copy), to(&copy)), ("303", to(&twice)));
    assert_eq!(to(&copy), "/jobs/4/details");
    let plain = post(at, "/jobs/3/copy", "as=template", "").await;
    assert!(body(&get(at, &to(&plain)).await).contains(", copy</span>"));
    let long = "x".repeat(300);
    assert_eq!(status(&post(at, "/jobs/3/copy", &format!("name={long}"), "").await), "422");
    // A template is offered to new jobs, which begin as it stands.
    assert!(list("desk").await.contains("Start from"));
    let template = to(&plain).split('/').nth(2).unwrap().to_owned();
    let form = format!("name=From+it&place=There&units=us&from={template}");
    let begun = post(at, "/jobs", &form, "").await;
    assert!(to(&begun).ends_with("/ground"), "{begun}");
    let id = to(&begun).split('/').nth(2).unwrap().to_owned();
    let job: serde_json::Value =
        serde_json::from_str(body(&get(at, &format!("/jobs/{id}/job.json")).await)).unwrap();
    assert_eq!((job["name"].as_str(), job["place"].as_str()), (Some("From it"), Some("There")));
    assert!(!job["valves"].as_array().unwrap().is_empty());
    // Deleted: no page and no edit of it, but it comes back whole.
    let before = body(&get(at, "/jobs/4/job.json").await).to_owned();
    assert_eq!(status(&post(at, "/jobs/4/delete", "sure=yes", "").await), "303");
    assert_eq!(status(&get(at, "/jobs/4/water").await), "404");
    assert_eq!(status(&get(at, "/jobs/4/job.json").await), "404");
    assert_eq!(status(&post(at, "/jobs/4/details", "name=x&units=us", "").await), "404");
    let bin = list("deleted").await;
    assert!(
        bin.contains("Twin") && bin.contains("Deleted permanently in 30") && !bin.contains("href=\"/jobs/4/"),
        "{bin}"
    );
    assert_eq!(status(&post(at, "/jobs/4/shelf", "to=back", "").await), "303");
    assert_eq!(body(&get(at, "/jobs/4/job.json").await), before);
    assert_eq!(status(&post(at, "/jobs/4/shelf", "to=back", "").await), "404", "it was not deleted");
    // Nobody gets to the bin by another door.
    for bad in ["to=deleted", "to=attic", ""] {
        assert_eq!(status(&post(at, "/jobs/3/shelf", bad, "").await), "400", "{bad}");
    }
    assert_eq!(status(&post(at, "/jobs/999/shelf", "to=archive", "").await), "404");
}

#[sqlx::test(migrations = false)]
async fn new_jobs_begin_with_the_companys_rules_and_others_keep_theirs(pool: PgPool) {
    let at = serve(&pool).await;
    assert!(
        body(&get(at, "/jobs/3/details").await)
            .contains("Same as the company standards. New jobs start with these")
    );
    let form = "flow_margin=25&house_demand=0+gpm&assumed_small=10+gpm&assumed_large=15+gpm&velocity_watch=5+ft/s&velocity_stop=7+ft/s&spread=20&regulator_room=10+psi&fittings=10&drip_rating=40+psi&drip=always-both&heads=by-ground&peak_et=1.6+in&peak_weeks=18&price_module=28&price_preset=16&price_body=6&price_system=95";
    let saved = post(at, "/jobs/3/rules", form, "").await;
    assert_eq!(status(&saved), "200", "{saved}");
    let page = get(at, "/jobs/3/details").await;
    assert!(body(&page).contains("differs from the company standards in: flow margin"), "{}", body(&page));
    assert_eq!(status(&post(at, "/jobs/3/rules/house", "", "").await), "303");
    let made = post(at, "/jobs", "name=New&units=us", "").await;
    let id = to(&made).split('/').nth(2).unwrap().to_owned();
    let margin =
        |text: &str| serde_json::from_str::<serde_json::Value>(text).unwrap()["rules"]["flow_margin"].clone();
    assert_eq!(margin(body(&get(at, &format!("/jobs/{id}/job.json")).await)), 0.25);
    // A job that stood before goes by its own until somebody takes the company's; undo takes that back.
    let old = |answer: String| margin(body(&answer));
    assert_eq!(old(get(at, "/jobs/2/job.json").await), 0.1);
    assert_eq!(status(&post(at, "/jobs/2/rules/take", "", "").await), "200");
    assert_eq!(old(get(at, "/jobs/2/job.json").await), 0.25);
    assert_eq!(status(&post(at, "/jobs/2/undo", "", "").await), "200");
    assert_eq!(old(get(at, "/jobs/2/job.json").await), 0.1);
}

#[sqlx::test(migrations = false)]
async fn a_drawing_is_looked_at_joined_and_hidden_layers_stay_out(pool: PgPool) {
    let at = serve(&pool).await;
    let sent = multipart(at, "/jobs/1/ground/import", "joined.dxf", &drawing("joined.dxf")).await;
    let page = to(&sent);
    let shown = get(at, &page).await;
    assert!(body(&shown).contains("import-preview") && body(&shown).contains("Join line ends"), "{shown}");
    assert!(body(&shown).contains("1 outline inside another becomes a hole"));
    assert!(body(&shown).contains("4 lines"), "gaps of 3 mm stay open at 2 mm");
    // Wider: four lines are one outline. Nothing has come in yet.
    let look =
        "look=yes&unit=1&tolerance=5+mm&layer0=dry:building&layer1=dry:wall&layer2=area:lawn&layer3=heights";
    let wider = post(at, &page, look, "").await;
    assert!(body(&wider).contains("1 outline") && !body(&wider).contains("4 lines"), "{}", body(&wider));
    let refused = post(at, &page, &look.replace("5+mm", "3+m"), "").await;
    assert!(body(&refused).contains("0.5 to 50 mm"), "{}", body(&refused));
    let job = get(at, "/jobs/1/job.json").await;
    assert!(!body(&job).contains("\"building\""));
    let taken = post(at, &page, &look.replace("look=yes&", ""), "").await;
    assert!(["200", "303"].contains(&status(&taken)), "{taken}");
    let job = get(at, "/jobs/1/job.json").await;
    assert!(body(&job).contains("\"building\"") && body(&job).contains("\"holes\""));
    // Layers that are off in the file are off here, and say so; what is left out is listed.
    let sent = multipart(at, "/jobs/1/ground/import", "left-out.dxf", &drawing("left-out.dxf")).await;
    let shown = get(at, &to(&sent)).await;
    let text = body(&shown);
    for words in [
        "frozen in the",
        "off in the",
        "invisible in the",
        "3 hatches on ‘hatching’",
        "external references on ‘lawn’",
    ] {
        assert!(text.contains(words), "{words}");
    }
    let flat = text.split_whitespace().collect::<Vec<_>>().join(" ");
    assert_eq!(
        flat.matches("value=\"skip\" selected").count(),
        3,
        "what is hidden is left out unless somebody says otherwise"
    );
}

#[sqlx::test(migrations = false)]
async fn a_picture_travels_with_its_job_and_a_page_is_laid_at_its_scale(pool: PgPool) {
    let at = serve(&pool).await;
    let file = |name: &str| std::fs::read(format!("{}/tests/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap();
    let page = |scale: &str| {
        let mut form =
            format!("--B\r\ncontent-disposition: form-data; name=\"scale\"\r\n\r\n{scale}\r\n").into_bytes();
        form.extend(b"--B\r\ncontent-disposition: form-data; name=\"file\"; filename=\"page.pdf\"\r\n\r\n");
        form.extend(file("page.pdf"));
        form.extend(b"\r\n--B--\r\n");
        form
    };
    let head = format!(
        "POST /jobs/1/ground/picture HTTP/1.1\r\ncontent-type: multipart/form-data; boundary=B\r\norigin: \
            http://{at}"
    );
    let bad = ask(at, &head, page("a lot")).await;
    assert!(status(&bad) == "400" && body(&bad).contains("Enter a scale such as 1:100"), "{bad}");
    let laid = ask(at, &head, page("1:100")).await;
    assert_eq!(status(&laid), "303", "{laid}");
    let job = get(at, "/jobs/1/job.json").await;
    let plan: serde_json::Value = serde_json::from_str(body(&job)).unwrap();
    let pixel: f64 =
        plan["site"]["underlay"]["pixel"].as_str().unwrap().trim_end_matches(" m").parse().unwrap();
    assert!((pixel - 100.0 * 0.0254 / 150.0).abs() < 1e-6, "{pixel}");
    // The JSON alone says what it could not bring.
    let alone = multipart(at, "/jobs/import", "job.json", body(&job).as_bytes()).await;
    let told = get(at, &to(&alone)).await;
    assert!(
        body(&told).contains("Not imported from the file") && body(&told).contains("has none"),
        "{}",
        to(&alone)
    );
    assert!(body(&get(at, "/jobs/1/details").await).contains("Job file with picture (ZIP)"));
}

#[sqlx::test(migrations = false)]
async fn ground_by_figures_has_a_name_stands_beside_and_its_heads_go_to_valves_where_they_are_seen(
    pool: PgPool,
) {
    let at = serve(&pool).await;
    let rect = |more: &str| format!("op=rectangle&form=rect&kind=area:lawn&along=12+m&across=8+m{more}");
    let first = post(at, "/jobs/1/ground/op", &rect("&name=Front"), "").await;
    let added = first.lines().find(|l| l.to_lowercase().starts_with("hx-trigger:")).unwrap().to_owned();
    assert!(added.contains("board-changed") && added.contains("added"), "{added}");
    post(at, "/jobs/1/ground/op", &rect("&name=Back"), "").await;
    let job = get(at, "/jobs/1/job.json").await;
    let plan: serde_json::Value = serde_json::from_str(body(&job)).unwrap();
    let objects = plan["site"]["things"].as_array().unwrap();
    let of = |name: &str| objects.iter().find(|o| o["name"] == name).unwrap().clone();
    let corner = |o: &serde_json::Value| o["what"]["shape"]["outline"][0][0].as_f64().unwrap();
    assert_eq!((corner(&of("Front")), corner(&of("Back"))), (0.0, 13.0), "a metre beside the first");
    let id = of("Back")["id"].as_str().unwrap().to_owned();
    let laid = post(at, "/jobs/1/ground/layout", &format!("area={id}&kind=rotator-short"), "").await;
    assert_eq!(status(&laid), "200", "{laid}");
    let sheet = get(at, &format!("/jobs/1/ground/sheet?ids={id}")).await;
    assert!(body(&sheet).contains("not on a valve"), "{}", body(&sheet));
    let put = post(at, "/jobs/1/ground/op", "op=to-valves&form=loose", "").await;
    assert_eq!(status(&put), "200", "{put}");
    assert!(!body(&get(at, &format!("/jobs/1/ground/sheet?ids={id}")).await).contains("not on a valve"));
    let again = post(at, "/jobs/1/ground/op", "op=to-valves&form=loose", "").await;
    assert!(status(&again) == "422" && body(&again).contains("already on valves"), "{again}");
    // The area called otherwise: its heads and their valve follow.
    let called = "name=Orchard&kind=lawn&plants=&water_use=medium&soil=loam&exposure=full-sun&wind=calm&slope=0&toward=";
    let named = post(at, &format!("/jobs/1/ground/thing/{id}"), called, "").await;
    assert_eq!(status(&named), "200", "{named}");
    let job = get(at, "/jobs/1/job.json").await;
    let plan: serde_json::Value = serde_json::from_str(body(&job)).unwrap();
    let names = |list: &str| -> Vec<String> {
        let all = plan[list].as_array().unwrap().iter();
        all.map(|v| v["name"].as_str().unwrap().to_owned()).collect()
    };
    let (valves, groups) = (names("valves"), names("groups"));
    assert!(groups.contains(&"Orchard".to_owned()) && !groups.contains(&"Back".to_owned()), "{groups:?}");
    assert!(valves.iter().any(|v| v.starts_with("Orchard")), "{valves:?}");
    assert!(valves.iter().all(|v| !v.starts_with("Back")), "{valves:?}");
    // A gesture of the board puts nothing anywhere by itself.
    let gone = gesture(at, "1", 99, "z", r#"{"do":"remove","ids":["nobody"]}"#).await;
    assert_ne!(status(&gone), "500");
}

#[sqlx::test(migrations = false)]
async fn help_answers_for_every_screen_and_any_question(pool: PgPool) {
    let at = serve(&pool).await;
    for (screen, words) in [
        ("water", "Take two gauge readings at one hose bib"),
        ("ground", "Locate a corner with two tapes"),
        ("layout", "Measure radius and read the nozzle"),
        ("assembly", "What can share a valve"),
        ("quote", "Identify pipe and thread"),
        ("details", "Search a term or a symptom"),
        ("nowhere", "Search a term or a symptom"),
    ] {
        let answer = get(at, &format!("/help/box?at={screen}&units=metric-bar")).await;
        assert!(status(&answer) == "200" && body(&answer).contains(words), "{screen}");
        assert!(!body(&answer).contains("psi"), "{screen}");
    }
    let found = get(at, "/help/found?q=blow%20off").await;
    assert!(body(&found).contains("Drip fittings come apart") && !body(&found).contains("Puddles"));
    let none = get(at, "/help/found?q=%3Cscript%3E").await;
    assert!(body(&none).contains("&#60;script&#62;") || body(&none).contains("&lt;script&gt;"), "{none}");
    assert!(body(&get(at, "/help?q=fog").await).contains("Troubleshooting and glossary"));
    assert_eq!(status(&get(at, "/help?units=cubits").await), "400");
}

const CHART: &str =
    "name,kind,pressure psi,arc,radius ft,flow gpm,price\r\nField 12,spray,30,360,12,2.4,1.85";

fn form(pairs: &[(&str, &str)]) -> String {
    let escaped = |text: &str| text.bytes().map(|b| format!("%{b:02X}")).collect::<String>();
    let pairs = pairs.iter().map(|(name, value)| format!("{name}={}", escaped(value)));
    pairs.collect::<Vec<_>>().join("&")
}

#[sqlx::test(migrations = false)]
async fn the_companys_nozzles_are_what_new_jobs_begin_with_and_old_ones_bring_in(pool: PgPool) {
    let at = serve(&pool).await;
    let send = |path: String, pairs: Vec<(&'static str, &'static str)>| async move {
        post(at, &path, &form(&pairs), "\r\nhx-request: true").await
    };
    // Looked at, nothing is kept; a row with a fault is left out, and said by its line.
    let faulty = form(&[("chart", &format!("{CHART}\r\nOdd,spray,30,90,-1,0.4,"))]);
    let look = post(at, "/prices/nozzles/look", &faulty, "\r\nhx-request: true").await;
    assert!(body(&look).contains("Field 12") && body(&look).contains("radius is ‘-1’"), "{look}");
    assert!(!body(&get(at, "/prices").await).contains("Field 12"));
    let kept = send("/prices/nozzles/save".into(), vec![("chart", CHART)]).await;
    assert!(body(&kept).contains("Field 12") && body(&kept).contains("2.4 gpm"), "{kept}");
    send("/prices/nozzles/truck".into(), vec![("id", "own-field-12"), ("on", "yes")]).await;
    assert!(body(&get(at, "/prices/nozzles.csv").await).contains("Field 12,spray"));

    // A new job begins with it, on the truck.
    let made = send("/jobs".into(), vec![("name", "New"), ("units", "us")]).await;
    let job = to(&made).trim_start_matches("/jobs/").split('/').next().unwrap().to_owned();
    let file = body(&get(at, &format!("/jobs/{job}/job.json")).await).to_owned();
    assert!(file.contains("own-field-12") && file.contains("favourites"), "{file}");
    // One under way is told what it lacks, and brings it in as one step that is undone as one.
    let panel = get(at, "/jobs/1/catalogue/house").await;
    assert!(body(&panel).contains("Not in this job:</b> Field 12"), "{panel}");
    assert_eq!(status(&send("/jobs/1/catalogue/house/bring".into(), vec![]).await), "200");
    assert!(body(&get(at, "/jobs/1/catalogue/house").await).contains("unchanged."));
    send("/jobs/1/undo".into(), vec![]).await;
    assert!(body(&get(at, "/jobs/1/catalogue/house").await).contains("Not in this job"));

    // What is added to a job is kept for all from there; taking it from the book leaves jobs as they are.
    let own = vec![
        ("name", "Corner"),
        ("kind", "spray"),
        ("pressure", "30 psi"),
        ("arc", "90"),
        ("radius", "10 ft"),
        ("flow", "0.4 gpm"),
    ];
    send(format!("/jobs/{job}/catalogue/add"), own).await;
    let panel = get(at, &format!("/jobs/{job}/catalogue/house")).await;
    assert!(body(&panel).contains("Only in this job:</b> Corner"), "{panel}");
    send(format!("/jobs/{job}/catalogue/house/keep"), vec![]).await;
    assert!(body(&get(at, "/prices").await).contains("Corner"));
    let left = send("/prices/nozzles/remove".into(), vec![("id", "own-corner")]).await;
    assert!(!body(&left).contains("Corner") && body(&left).contains("Field 12"));
    assert!(body(&get(at, &format!("/jobs/{job}/job.json")).await).contains("own-corner"));
    // Nothing usable is refused and keeps nothing.
    let none = send("/prices/nozzles/save".into(), vec![("chart", "name,kind\nx,spray")]).await;
    assert_eq!(status(&none), "400");
}
