void advance()
{
	if (++minute < 60)
		return;
	minute = 0;
	hour = hour == 12 ? 1 : hour + 1;
}

void show()
{
	digits.showTime(hour, minute);
}
