"""Pictures made from a picture, without a file: what lies on paper and film."""
