//! Parts that stand in a list of the plan: added, replaced and taken away in one way for all.

use super::{Change, Edit, EditError, Subject};
use crate::plan::Plan;
use serde::de::{DeserializeOwned, Error, MapAccess, Visitor};
use serde::ser::SerializeMap;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::fmt;
use std::marker::PhantomData;

/// A part that stands in a list of the plan under a name of its own.
pub trait Listed: Clone + PartialEq + Serialize + DeserializeOwned + 'static {
    /// What it is, in words.
    const WHAT: &'static str;
    /// Its name in files.
    const KEY: &'static str;
    /// Name in files of what owns its list, where that is not the plan itself.
    const OWNER: Option<&'static str> = None;

    /// Its own name.
    fn id(&self) -> &str;
    /// The list that it stands in.
    ///
    /// # Errors
    /// Its owner is not there.
    fn list<'p>(plan: &'p mut Plan, owner: Option<&str>) -> Result<&'p mut Vec<Self>, EditError>;
    /// What a change of it touches.
    fn subject(owner: Option<&str>, id: &str) -> Subject;
    /// How the history calls putting it.
    fn put_words(&self) -> String;
    /// How the history calls taking it away.
    const REMOVE_WORDS: &'static str;
    /// The edit that puts it.
    fn put(put: Put<Self>) -> Edit;
    /// The edit that takes it away.
    fn remove(remove: Remove<Self>) -> Edit;

    /// Whether it may go; nothing stands in the way of most.
    ///
    /// # Errors
    /// What still needs it.
    fn may_go(_plan: &Plan, _id: &str) -> Result<(), EditError> {
        Ok(())
    }
    /// Lets go of it what refers to it; gives the edits that put that back.
    fn let_go(_plan: &mut Plan, _id: &str) -> Vec<Edit> {
        Vec::new()
    }
}

/// The place of a part in its list.
///
/// # Errors
/// It is not there.
pub(super) fn position<T: Listed>(list: &[T], id: &str) -> Result<usize, EditError> {
    let missing = || EditError::Missing { what: T::WHAT, id: id.to_owned() };
    list.iter().position(|part| part.id() == id).ok_or_else(missing)
}

/// Adds a part to its list or replaces the one of its id.
#[derive(Debug, Clone, PartialEq)]
pub struct Put<T> {
    /// What owns the list, where that is not the plan itself.
    pub owner: Option<String>,
    /// The part.
    pub part: T,
    /// Its place in the list where it is new; at the end where absent.
    pub at: Option<usize>,
}

impl<T: Listed> Change for Put<T> {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let list = T::list(plan, self.owner.as_deref())?;
        let id = self.part.id();
        Ok(match list.iter().position(|part| part.id() == id) {
            Some(i) => {
                let part = std::mem::replace(&mut list[i], self.part.clone());
                T::put(Self { owner: self.owner.clone(), part, at: None })
            }
            None => {
                list.insert(self.at.unwrap_or(list.len()).min(list.len()), self.part.clone());
                T::remove(Remove::new(self.owner.clone(), id.to_owned()))
            }
        })
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![T::subject(self.owner.as_deref(), self.part.id())]
    }
    fn words(&self) -> String {
        self.part.put_words()
    }
}

/// Takes a part out of its list.
#[derive(Debug, Clone, PartialEq)]
pub struct Remove<T> {
    /// What owns the list, where that is not the plan itself.
    pub owner: Option<String>,
    /// The part's name.
    pub id: String,
    of: PhantomData<fn() -> T>,
}

impl<T> Remove<T> {
    /// Of the part of this name.
    pub fn new(owner: Option<String>, id: String) -> Self {
        Self { owner, id, of: PhantomData }
    }
}

impl<T: Listed> Change for Remove<T> {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        T::may_go(plan, &self.id)?;
        let list = T::list(plan, self.owner.as_deref())?;
        let at = position(list, &self.id)?;
        let part = list.remove(at);
        let back = T::put(Put { owner: self.owner.clone(), part, at: Some(at) });
        let mut more = T::let_go(plan, &self.id);
        if more.is_empty() {
            return Ok(back);
        }
        more.insert(0, back);
        Ok(Edit::batch(more))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![T::subject(self.owner.as_deref(), &self.id)]
    }
    fn words(&self) -> String {
        T::REMOVE_WORDS.into()
    }
}

// In files both are flat: `{"supply": {...}, "at": 2}`, `{"group": "g1", "id": "h7"}`.

impl<T: Listed> Serialize for Put<T> {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let mut map = to.serialize_map(None)?;
        if let (Some(key), Some(owner)) = (T::OWNER, &self.owner) {
            map.serialize_entry(key, owner)?;
        }
        map.serialize_entry(T::KEY, &self.part)?;
        map.serialize_entry("at", &self.at)?;
        map.end()
    }
}

impl<T: Listed> Serialize for Remove<T> {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let mut map = to.serialize_map(None)?;
        if let (Some(key), Some(owner)) = (T::OWNER, &self.owner) {
            map.serialize_entry(key, owner)?;
        }
        map.serialize_entry("id", &self.id)?;
        map.end()
    }
}

/// What a flat entry of either kind may hold.
struct Flat<T> {
    owner: Option<String>,
    part: Option<T>,
    at: Option<usize>,
    id: Option<String>,
}

struct FlatVisitor<T>(PhantomData<T>);

impl<'de, T: Listed> Visitor<'de> for FlatVisitor<T> {
    type Value = Flat<T>;
    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "an edit of a {}", T::WHAT)
    }
    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let mut flat = Flat { owner: None, part: None, at: None, id: None };
        while let Some(key) = map.next_key::<String>()? {
            match key.as_str() {
                "at" => flat.at = map.next_value()?,
                "id" => flat.id = Some(map.next_value()?),
                key if key == T::KEY => flat.part = Some(map.next_value()?),
                key if Some(key) == T::OWNER => flat.owner = Some(map.next_value()?),
                key => return Err(A::Error::custom(format!("unknown key ‘{key}’"))),
            }
        }
        if T::OWNER.is_some() && flat.owner.is_none() {
            return Err(A::Error::missing_field(T::OWNER.unwrap_or_default()));
        }
        Ok(flat)
    }
}

impl<'de, T: Listed> Deserialize<'de> for Put<T> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let flat = from.deserialize_map(FlatVisitor::<T>(PhantomData))?;
        let part = flat.part.ok_or_else(|| D::Error::missing_field(T::KEY))?;
        Ok(Self { owner: flat.owner, part, at: flat.at })
    }
}

impl<'de, T: Listed> Deserialize<'de> for Remove<T> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let flat = from.deserialize_map(FlatVisitor::<T>(PhantomData))?;
        Ok(Self::new(flat.owner, flat.id.ok_or_else(|| D::Error::missing_field("id"))?))
    }
}
