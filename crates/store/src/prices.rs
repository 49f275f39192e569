//! The company's price book.

use crate::{Scope, StoreError};
use fenlo_core::plan::Date;
use fenlo_core::pricing::{Price, PriceBook, Supplier};
use rust_decimal::Decimal;
use std::collections::HashMap;

/// Prices of a company at most.
pub const MOST_KEPT: i64 = 300_000;

/// What a new book does with the one before.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Taking {
    /// Prices of the same number and supplier are replaced, others stay.
    Beside,
    /// Everything of the suppliers that the new book names goes first.
    InPlaceOfTheirs,
}

/// A page of prices that were searched for.
#[derive(Debug, Clone, PartialEq)]
pub struct PricesPage {
    /// In the order of their text.
    pub prices: Vec<Price>,
    /// How many there are in all, up to a thousand.
    pub total: i64,
}

/// A supplier with how many prices are known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct KnownSupplier {
    /// Its terms.
    pub terms: Supplier,
    /// Prices of it.
    pub prices: i64,
}

impl Scope {
    /// Takes a book over, whole or not at all.
    ///
    /// # Errors
    /// [`StoreError::Currency`] where the book is in another currency than the prices that are kept;
    /// [`StoreError::Full`]; [`StoreError::Unavailable`].
    pub async fn take_prices(&self, book: &PriceBook, taking: Taking) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        sqlx::query!("insert into price_books (company_id) values ($1) on conflict do nothing", self.company)
            .execute(&mut *tx)
            .await?;
        let kept =
            sqlx::query!("select currency from price_books where company_id = $1 for update", self.company)
                .fetch_one(&mut *tx)
                .await?;
        let names: Vec<String> = book.suppliers.iter().map(|s| s.name.clone()).collect();
        if taking == Taking::InPlaceOfTheirs {
            sqlx::query!(
                "delete from prices where company_id = $1 and supplier = any($2)",
                self.company,
                &names
            )
            .execute(&mut *tx)
            .await?;
        }
        let others =
            sqlx::query_scalar!(r#"select count(*) as "n!" from prices where company_id = $1"#, self.company)
                .fetch_one(&mut *tx)
                .await?;
        if others + book.prices.len() as i64 > MOST_KEPT {
            return Err(StoreError::Full("prices"));
        }
        let other = !kept.currency.is_empty() && !book.currency.is_empty() && kept.currency != book.currency;
        if other && others > 0 {
            return Err(StoreError::Currency(kept.currency));
        }
        let currency = if book.currency.is_empty() { kept.currency } else { book.currency.clone() };
        sqlx::query!(
            "update price_books set currency = $2, version = version + 1 where company_id = $1",
            self.company,
            currency
        )
        .execute(&mut *tx)
        .await?;
        for supplier in &book.suppliers {
            sqlx::query!(
                "insert into suppliers (company_id, name, carriage, free_from) values ($1, $2, $3, $4)
                 on conflict (company_id, name) do update set carriage = $3, free_from = $4",
                self.company,
                supplier.name,
                supplier.carriage,
                supplier.free_from
            )
            .execute(&mut *tx)
            .await?;
        }
        for some in book.prices.chunks(5_000) {
            let column = |of: &dyn Fn(&Price) -> String| some.iter().map(of).collect::<Vec<String>>();
            let (numbers, suppliers, texts) =
                (column(&|p| p.number.clone()), column(&|p| p.supplier.clone()), column(&|p| p.text.clone()));
            let sums: Vec<Decimal> = some.iter().map(|p| p.price).collect();
            let packs: Vec<i32> = some.iter().map(|p| p.pack as i32).collect();
            let least: Vec<i32> = some.iter().map(|p| p.minimum as i32).collect();
            let dates = column(&|p| p.dated.map_or_else(String::new, |d| d.to_string()));
            sqlx::query!(
                "insert into prices (company_id, number, supplier, text, price, pack, minimum, dated)
                 select $1, n, s, t, p, k, m, nullif(d, '')::date
                 from unnest($2::text[], $3::text[], $4::text[], $5::numeric[], $6::int[], $7::int[], \
                 $8::text[])
                     as new (n, s, t, p, k, m, d)
                 on conflict (company_id, number, supplier) do update set
                     text = excluded.text, price = excluded.price, pack = excluded.pack,
                     minimum = excluded.minimum, dated = excluded.dated",
                self.company,
                &numbers,
                &suppliers,
                &texts,
                &sums,
                &packs,
                &least,
                &dates
            )
            .execute(&mut *tx)
            .await?;
        }
        let (parts, numbers): (Vec<String>, Vec<String>) =
            book.numbers.iter().map(|(p, n)| (p.clone(), n.clone())).unzip();
        sqlx::query!(
            "insert into part_numbers (company_id, part, number)
             select $1, p, n from unnest($2::text[], $3::text[]) as new (p, n)
             on conflict (company_id, part) do update set number = excluded.number",
            self.company,
            &parts,
            &numbers
        )
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(())
    }

    /// Prices whose number, text or supplier has words that begin so; all where nothing is asked for.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn search_prices(&self, search: &str, page: i64, each: i64) -> Result<PricesPage, StoreError> {
        let words: Vec<String> = search
            .split(|c: char| !c.is_alphanumeric())
            .filter(|w| !w.is_empty())
            .take(8)
            .map(|w| format!("{w}:*"))
            .collect();
        let query = words.join(" & ");
        let rows = sqlx::query!(
            r#"select number, supplier, text, price, pack, minimum, dated::text as dated
               from prices where company_id = $1 and ($2 = '' or found @@ to_tsquery('simple', $2))
               order by text, number, supplier limit $3 offset $4"#,
            self.company,
            query,
            each,
            page * each
        )
        .fetch_all(&self.pool)
        .await?;
        let total = sqlx::query_scalar!(
            r#"select count(*) as "n!" from (select 1 from prices where company_id = $1
               and ($2 = '' or found @@ to_tsquery('simple', $2)) limit 1000) as first_ones"#,
            self.company,
            query
        )
        .fetch_one(&self.pool)
        .await?;
        let prices = rows
            .into_iter()
            .map(|r| Price {
                number: r.number,
                supplier: r.supplier,
                text: r.text,
                price: r.price.normalize(),
                pack: r.pack as u32,
                minimum: r.minimum as u32,
                dated: r.dated.and_then(|d| d.parse().ok()),
            })
            .collect();
        Ok(PricesPage { prices, total })
    }

    /// What the book knows of these parts ([`fenlo_core::pricing::part_key`]): their own numbers, and every
    /// price of those.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn prices_of(&self, parts: &[String]) -> Result<PriceBook, StoreError> {
        let mut book = PriceBook { currency: self.currency().await?, ..PriceBook::default() };
        let numbers = sqlx::query!(
            "select part, number from part_numbers where company_id = $1 and part = any($2)",
            self.company,
            parts
        )
        .fetch_all(&self.pool)
        .await?;
        book.numbers = numbers.into_iter().map(|r| (r.part, r.number)).collect();
        let wanted: Vec<String> = parts.iter().map(|p| book.number_of(p).to_owned()).collect();
        let rows = sqlx::query!(
            r#"select number, supplier, text, price, pack, minimum, dated::text as dated
               from prices where company_id = $1 and number = any($2) order by number, supplier"#,
            self.company,
            &wanted
        )
        .fetch_all(&self.pool)
        .await?;
        for r in rows {
            book.prices.push(Price {
                number: r.number,
                supplier: r.supplier,
                text: r.text,
                price: r.price.normalize(),
                pack: r.pack as u32,
                minimum: r.minimum as u32,
                dated: r.dated.and_then(|d| d.parse::<Date>().ok()),
            });
        }
        book.suppliers = self.suppliers().await?.into_iter().map(|s| s.terms).collect();
        Ok(book)
    }

    /// The whole book, to be written to a file.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn all_prices(&self) -> Result<PriceBook, StoreError> {
        let page = self.search_prices("", 0, MOST_KEPT).await?;
        let numbers =
            sqlx::query!("select part, number from part_numbers where company_id = $1", self.company)
                .fetch_all(&self.pool)
                .await?;
        Ok(PriceBook {
            currency: self.currency().await?,
            suppliers: self.suppliers().await?.into_iter().map(|s| s.terms).collect(),
            prices: page.prices,
            numbers: numbers.into_iter().map(|r| (r.part, r.number)).collect::<HashMap<_, _>>(),
        })
    }

    /// The currency of the book; empty where there is none.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn currency(&self) -> Result<String, StoreError> {
        let kept =
            sqlx::query_scalar!("select currency from price_books where company_id = $1", self.company);
        Ok(kept.fetch_optional(&self.pool).await?.unwrap_or_default())
    }

    /// Suppliers by name.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn suppliers(&self) -> Result<Vec<KnownSupplier>, StoreError> {
        let rows = sqlx::query!(
            r#"select s.name, s.carriage, s.free_from,
                  (select count(*) from prices p where p.company_id = s.company_id and p.supplier = s.name) as "n!"
               from suppliers s where s.company_id = $1 order by s.name"#,
            self.company
        )
        .fetch_all(&self.pool)
        .await?;
        let known = |r: &dyn Fn() -> (String, Decimal, Option<Decimal>, i64)| {
            let (name, carriage, free_from, prices) = r();
            KnownSupplier {
                terms: Supplier {
                    name,
                    carriage: carriage.normalize(),
                    free_from: free_from.map(|f| f.normalize()),
                },
                prices,
            }
        };
        Ok(rows.into_iter().map(|r| known(&|| (r.name.clone(), r.carriage, r.free_from, r.n))).collect())
    }

    /// Says the own number of a part, for all jobs; an empty one takes it back.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn number_part(&self, part: &str, number: &str) -> Result<(), StoreError> {
        if number.is_empty() {
            sqlx::query!("delete from part_numbers where company_id = $1 and part = $2", self.company, part)
                .execute(&self.pool)
                .await?;
            return Ok(());
        }
        sqlx::query!(
            "insert into part_numbers (company_id, part, number) values ($1, $2, $3)
             on conflict (company_id, part) do update set number = $3",
            self.company,
            part,
            number
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// Puts one price into the book, or replaces it.
    ///
    /// # Errors
    /// As for [`Scope::take_prices`].
    pub async fn put_price(&self, price: Price, currency: &str) -> Result<(), StoreError> {
        let known = self.suppliers().await?.into_iter().find(|s| s.terms.name == price.supplier);
        let terms = known.map_or_else(
            || Supplier { name: price.supplier.clone(), carriage: Decimal::ZERO, free_from: None },
            |k| k.terms,
        );
        let book = PriceBook {
            currency: currency.to_owned(),
            suppliers: vec![terms],
            prices: vec![price],
            numbers: HashMap::new(),
        };
        self.take_prices(&book, Taking::Beside).await
    }

    /// Takes a price out of the book.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`].
    pub async fn remove_price(&self, number: &str, supplier: &str) -> Result<(), StoreError> {
        sqlx::query!(
            "delete from prices where company_id = $1 and number = $2 and supplier = $3",
            self.company,
            number,
            supplier
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }
}
