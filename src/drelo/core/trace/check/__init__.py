"""A trace held against its picture and itself."""
