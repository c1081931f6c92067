<div class="stack"><label for="password">New password</label><input id="password" name="password" type="password"
    autocomplete="new-password" required minlength="12" aria-describedby="password-rule"><small id="password-rule"
    class="quiet">12 characters or more; several words are easier than signs</small></div>
<div class="stack"><label for="password_confirmation">The same again</label><input id="password_confirmation"
    name="password_confirmation" type="password" autocomplete="new-password" required></div>
