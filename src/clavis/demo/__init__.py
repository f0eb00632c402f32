"""The made-up world: invented makers, parts, riders and roads for trying Clavis out."""
