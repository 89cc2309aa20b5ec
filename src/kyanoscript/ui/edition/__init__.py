"""The Edition view: one script over many photographs."""
