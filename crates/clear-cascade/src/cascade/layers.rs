//! Cascade layers and their order (CSS Cascade 5, §6.4).

use std::collections::HashMap;

/// The place of a layer among all of its origin; unlayered styles come last.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct LayerId(pub(crate) u32);

impl LayerId {
    /// No layer: after all layers.
    pub(crate) const UNLAYERED: Self = Self(u32::MAX / 2);
}

/// A layer while they are gathered.
#[derive(Debug)]
struct Layer {
    /// Its name with those around it, joined by dots; anonymous ones have none.
    name: Option<String>,
    /// The layers inside, in order of first mention.
    children: Vec<usize>,
}

/// The layers of one origin, in order of first mention; 0 is the top.
#[derive(Debug)]
pub(crate) struct Layers {
    /// All layers.
    list: Vec<Layer>,
    /// Named layers by the layer around and their name.
    named: HashMap<(usize, String), usize>,
}

impl Default for Layers {
    fn default() -> Self {
        Self { list: vec![Layer { name: None, children: Vec::new() }], named: HashMap::new() }
    }
}

impl Layers {
    /// The layer with these names inside another, made where it is new. 0 is the top.
    pub(crate) fn enter(&mut self, around: usize, names: &[String]) -> usize {
        names.iter().fold(around, |at, name| {
            if let Some(found) = self.named.get(&(at, name.clone())) {
                return *found;
            }
            let full = match &self.list[at].name {
                Some(outer) => format!("{outer}.{name}"),
                None => name.clone(),
            };
            let new = self.add(at, Some(full));
            self.named.insert((at, name.clone()), new);
            new
        })
    }

    /// A new layer without a name inside another.
    pub(crate) fn enter_anonymous(&mut self, around: usize) -> usize {
        let name = self.list[around].name.as_ref().map(|n| format!("{n}.(anonymous)"));
        self.add(around, Some(name.unwrap_or_else(|| "(anonymous)".to_owned())))
    }

    /// Adds a layer.
    fn add(&mut self, around: usize, name: Option<String>) -> usize {
        let new = self.list.len();
        self.list.push(Layer { name, children: Vec::new() });
        self.list[around].children.push(new);
        new
    }

    /// The place of each layer once all are known: inner layers before what is straight in the outer one.
    pub(crate) fn order(&self) -> Vec<LayerId> {
        let mut order = vec![LayerId::UNLAYERED; self.list.len()];
        let mut next = 0;
        let mut open = vec![(0, 0)];
        while let Some((at, child)) = open.pop() {
            if let Some(inner) = self.list[at].children.get(child) {
                open.push((at, child + 1));
                open.push((*inner, 0));
            } else if at != 0 {
                order[at] = LayerId(next);
                next += 1;
            }
        }
        order
    }

    /// The names of all layers in their order, the weakest first.
    pub(crate) fn names(&self) -> Vec<&str> {
        let mut all: Vec<(LayerId, &str)> = self
            .order()
            .into_iter()
            .zip(&self.list)
            .skip(1)
            .map(|(id, l)| (id, l.name.as_deref().unwrap_or_default()))
            .collect();
        all.sort_unstable();
        all.into_iter().map(|(_, name)| name).collect()
    }

    /// The name of a layer with those around it.
    pub(crate) fn name(&self, layer: usize) -> Option<&str> {
        self.list[layer].name.as_deref()
    }
}
