"""The running application: store, background work, actions, settings, theme, errors."""
