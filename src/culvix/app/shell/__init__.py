"""The window itself: start, menus, opening and saving."""
