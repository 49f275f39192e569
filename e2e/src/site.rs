use anyhow::{Context, Result};
use fenlo_web::Store;
use sqlx::{Connection, PgConnection};
use std::sync::atomic::{AtomicU32, Ordering};
use tokio::sync::oneshot;

static NEXT: AtomicU32 = AtomicU32::new(0);

/// The real server on a free port, with the demo jobs, in a database that goes when it stops.
pub struct Site {
    /// `http://127.0.0.1:PORT`
    pub address: String,
    admin: String,
    database: String,
    stop: Option<oneshot::Sender<()>>,
    served: tokio::task::JoinHandle<()>,
}

impl Site {
    /// Starts it.
    pub async fn start() -> Result<Self> {
        let admin = std::env::var("DATABASE_URL").context("DATABASE_URL is not set: run ./test")?;
        let (server, _) = admin.rsplit_once('/').context("DATABASE_URL names no database")?;
        let database = format!("fenlo_e2e_{}_{}", std::process::id(), NEXT.fetch_add(1, Ordering::Relaxed));
        // The name is made of digits here, no input of anyone's.
        let create = sqlx::AssertSqlSafe(format!("create database {database}"));
        sqlx::raw_sql(create).execute(&mut PgConnection::connect(&admin).await?).await?;
        let store = Store::open(&format!("{server}/{database}")).await?;
        fenlo_web::load_demo(&store).await?;
        let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await?;
        let address = format!("http://{}", listener.local_addr()?);
        let (stop, stopped) = oneshot::channel::<()>();
        let served = tokio::spawn(async move {
            let result = fenlo_web::serve(listener, store, async move { stopped.await.unwrap_or(()) }).await;
            result.expect("the server stops when told to");
        });
        Ok(Self { address, admin, database, stop: Some(stop), served })
    }

    /// Stops the server and drops its database.
    pub async fn stop(mut self) -> Result<()> {
        drop(self.stop.take());
        // The browser may hold a connection open: it is not waited for.
        self.served.abort();
        let drop_it = sqlx::AssertSqlSafe(format!("drop database {} with (force)", self.database));
        sqlx::raw_sql(drop_it).execute(&mut PgConnection::connect(&self.admin).await?).await?;
        Ok(())
    }
}
