"""One script over many photographs."""
