// Numbers with a sign: a triangle between two limits, its half, its share, its size.
module top(input clk, input turn, output signed [7:0] value, output signed [7:0] half, output signed [7:0] share,
           output [7:0] size, output below);
  reg signed [7:0] v = 0;
  reg up = 1;
  reg [8:0] div = 0;
  always @(posedge clk) begin
    div <= div == 9'd299 ? 9'd0 : div + 1'b1;
    if (turn) up <= v < 0;
    else if (div == 9'd299) begin
      if (up && v >= 50) up <= 0;
      else if (!up && v <= -50) up <= 1;
      else v <= up ? v + 8'sd3 : v - 8'sd3;
    end
  end
  assign value = v;
  assign half = v >>> 1;
  assign share = v / 8'sd3;
  assign size = v < 0 ? -v : v;
  assign below = v < -8'sd7 && half > -8'sd20;
endmodule
