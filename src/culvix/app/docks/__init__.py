"""What stands beside every stage: rail, row tray, history, rules, marks, impact."""
