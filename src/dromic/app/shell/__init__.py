"""What is around the stages: menus, header, dialogs, preferences."""
