use anyhow::{Context, Result};
use fenlo_web::{Config, Store};
use sqlx::{Connection, PgConnection};
use std::sync::atomic::{AtomicU32, Ordering};
use tokio::net::TcpListener;
use tokio::runtime::Runtime;
use tokio::sync::oneshot;

static NEXT: AtomicU32 = AtomicU32::new(0);

/// The real server on a free port with a simulated controller beside it, with the demo jobs, in a database
/// that goes when it stops.
pub struct Site {
    /// `http://127.0.0.1:PORT`
    pub address: String,
    admin: String,
    database: String,
    url: String,
    stop: Option<oneshot::Sender<()>>,
    runtime: Option<Runtime>,
}

/// Serves on a runtime of its own, so that it can be ended with all its connections.
fn serve(listener: std::net::TcpListener, url: String) -> Result<(Runtime, oneshot::Sender<()>)> {
    let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build()?;
    let (stop, stopped) = oneshot::channel::<()>();
    runtime.spawn(async move {
        let listener = TcpListener::from_std(listener).expect("a listener");
        let store = Store::open(&url).await.expect("the database of this site");
        let controls = TcpListener::bind("127.0.0.1:0").await.expect("a free port");
        let controller = controls.local_addr().ok();
        tokio::spawn(async move { axum::serve(controls, fenlo_standins::controller::router()).await });
        let config = Config { controller, ..Config::default() };
        let stopped = async move { stopped.await.unwrap_or(()) };
        let result = fenlo_web::serve_with(listener, store, &config, stopped).await;
        result.expect("the server stops when told to");
    });
    Ok((runtime, stop))
}

/// Small sites whose groups are listed, which tests know head by head.
const FIXTURES: [(&str, &str); 3] = [
    ("bowls-green", include_str!("../../fixtures/bowls-green.json")),
    ("veterinary-clinic", include_str!("../../fixtures/veterinary-clinic.json")),
    ("corner-plot", include_str!("../../fixtures/corner-plot.json")),
];

impl Drop for Site {
    fn drop(&mut self) {
        // A runtime must not be waited for inside another one.
        self.kill();
    }
}

impl Site {
    /// Starts it.
    pub async fn start() -> Result<Self> {
        let admin = std::env::var("DATABASE_URL").context("DATABASE_URL is not set: run ./test")?;
        let (server, _) = admin.rsplit_once('/').context("DATABASE_URL names no database")?;
        let database = format!("fenlo_e2e_{}_{}", std::process::id(), NEXT.fetch_add(1, Ordering::Relaxed));
        // The name is made of digits here, no input of anyone's. A process of the same number may have left one.
        let mut at = PgConnection::connect(&admin).await?;
        for statement in [
            format!("drop database if exists {database} with (force)"),
            format!("create database {database}"),
        ] {
            sqlx::raw_sql(sqlx::AssertSqlSafe(statement)).execute(&mut at).await?;
        }
        let url = format!("{server}/{database}");
        let store = Store::open(&url).await?;
        fenlo_web::load_jobs(&store, &FIXTURES).await?;
        let listener = TcpListener::bind("127.0.0.1:0").await?;
        let address = format!("http://{}", listener.local_addr()?);
        let (runtime, stop) = serve(listener.into_std()?, url.clone())?;
        Ok(Self { address, admin, database, url, stop: Some(stop), runtime: Some(runtime) })
    }

    /// Ends the server at once, connections and all, as a kill would.
    pub fn kill(&mut self) {
        drop(self.stop.take());
        if let Some(runtime) = self.runtime.take() {
            runtime.shutdown_background();
        }
    }

    /// A new server on the same address and database.
    pub async fn revive(&mut self) -> Result<()> {
        let address = self.address.trim_start_matches("http://").to_owned();
        // The old one's socket may take a moment to go.
        let mut tries = 0;
        let listener = loop {
            match TcpListener::bind(&address).await {
                Ok(listener) => break listener,
                Err(error) if tries > 100 => return Err(error.into()),
                Err(_) => tries += 1,
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        };
        let (runtime, stop) = serve(listener.into_std()?, self.url.clone())?;
        (self.runtime, self.stop) = (Some(runtime), Some(stop));
        Ok(())
    }

    /// Stops the server and drops its database.
    pub async fn stop(mut self) -> Result<()> {
        // The browser may hold a connection open: it is not waited for.
        self.kill();
        let drop_it = sqlx::AssertSqlSafe(format!("drop database {} with (force)", self.database));
        sqlx::raw_sql(drop_it).execute(&mut PgConnection::connect(&self.admin).await?).await?;
        Ok(())
    }
}
