<?php

use Illuminate\Support\Facades\Schedule;

Schedule::command('baggage:tend')->everyMinute();
