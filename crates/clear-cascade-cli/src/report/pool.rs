//! Things that are the same are kept once and named by their number.

use std::collections::HashMap;
use std::hash::Hash;

use serde::{Serialize, Serializer};

/// Values in the order in which they were first met.
pub(super) struct Pool<T> {
    /// The values.
    list: Vec<T>,
    /// Their numbers.
    numbers: HashMap<T, u32>,
}

impl<T> Default for Pool<T> {
    fn default() -> Self {
        Self { list: Vec::new(), numbers: HashMap::new() }
    }
}

impl<T: Clone + Eq + Hash> Pool<T> {
    /// The number of a value.
    pub(super) fn add(&mut self, value: T) -> u32 {
        if let Some(number) = self.numbers.get(&value) {
            return *number;
        }
        let number = u32::try_from(self.list.len()).unwrap_or(u32::MAX);
        self.numbers.insert(value.clone(), number);
        self.list.push(value);
        number
    }

    /// The value with a number.
    pub(super) fn get(&self, number: u32) -> Option<&T> {
        self.list.get(number as usize)
    }
}

impl<T: Serialize> Serialize for Pool<T> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.list.serialize(serializer)
    }
}
