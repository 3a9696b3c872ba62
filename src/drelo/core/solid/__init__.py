"""From an arrangement with heights to one sealed mesh, and the check of it."""
