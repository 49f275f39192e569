//! A store on a test's own database.

use fenlo_store::{Scope, Store, THIS_COMPANY};
use sqlx::PgPool;

pub async fn database(pool: &PgPool) -> Store {
    let options = pool.connect_options();
    let url = std::env::var("DATABASE_URL").unwrap();
    let (server, _) = url.rsplit_once('/').unwrap();
    Store::open(&format!("{server}/{}", options.get_database().unwrap())).await.unwrap()
}

pub async fn store(pool: &PgPool) -> Scope {
    database(pool).await.scope(THIS_COMPANY)
}
