//! How far the library goes: limits that keep any input within the stack, the memory and the time that one has. Each is far beyond
//! what people write; where one is reached, a note says what was left out.

/// The largest file that is read, in bytes: far beyond any page, and small enough to hold in memory.
pub(crate) const LARGEST_FILE: u64 = 64 << 20;

/// How many sheets a page may bring in, imports counted: far beyond any site, and an end to sheets that import others without end.
pub(crate) const MOST_SHEETS: usize = 4096;

/// How deeply imports may nest: each is inside all those around it.
pub(crate) const DEEPEST_IMPORT: u32 = 32;

/// How deeply rules may nest: reading one inside another takes stack.
pub(crate) const DEEPEST_RULE: u32 = 64;

/// How deeply selectors may nest in `:is()` and its kin: reading and matching take stack.
pub(crate) const DEEPEST_SELECTOR: u32 = 64;

/// How deeply conditions of `@media`, `@supports`, `@container` and `if()` may nest: reading them takes stack.
pub(crate) const DEEPEST_CONDITION: u32 = 64;

/// How deeply functions may nest in a value that a grammar reads: each level is a call of the engine by itself.
pub(crate) const DEEPEST_FUNCTION: u32 = 60;

/// How deeply types may be defined by one another: the table of properties needs far less.
pub(crate) const DEEPEST_TYPE: u16 = 120;

/// Steps that matching a value with its grammar may take for each token: some grammars can be gone through in many ways.
pub(crate) const STEPS_PER_TOKEN: u32 = 4_000;

/// Steps that it may take for any value at all.
pub(crate) const STEPS: u32 = 40_000;

/// How deeply expressions may nest in `calc()` and its kin: reading and working them out takes stack.
pub(crate) const DEEPEST_EXPRESSION: u32 = 100;

/// How deeply colours may nest in one another: mixing and taking them apart takes stack.
pub(crate) const DEEPEST_COLOR: u32 = 32;

/// How long a value may grow by what is put in, in bytes: short enough to stop what doubles with every step (CSS Variables 2, §3.3
/// "Safely Handling Overly-Long Variables").
pub(crate) const LONGEST_VALUE: usize = 1 << 16;

/// How deeply functions that something is put in for may nest: putting in takes stack.
pub(crate) const DEEPEST_SUBSTITUTION: u32 = 64;

/// How many properties may be worked out inside one another: what they need is worked out before.
pub(crate) const DEEPEST_CUSTOM: usize = 32;

/// How many tests of `if()` and of style queries may be inside each other: each looks at styles that may have others.
pub(crate) const MOST_TESTS: u32 = 16;

/// How many calls of custom functions one value may make, so that calls that make two calls each come to an end.
pub(crate) const MOST_CALLS: u32 = 4096;
